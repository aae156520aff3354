import type { BuildSystem } from './kind.ts';

export const azure: BuildSystem = {
	variables: 'TF_BUILD',
	read: (env) =>
		env.TF_BUILD
			? {
					job: env.BUILD_DEFINITIONNAME,
					build: env.BUILD_BUILDNUMBER,
					commit: env.BUILD_SOURCEVERSION,
					branch: (env.SYSTEM_PULLREQUEST_SOURCEBRANCH ?? env.BUILD_SOURCEBRANCH)?.replace(/^refs\/(heads|tags)\//, ''),
					link:
						env.SYSTEM_COLLECTIONURI &&
						`${env.SYSTEM_COLLECTIONURI}${encodeURIComponent(env.SYSTEM_TEAMPROJECT ?? '')}/_build/results?buildId=${env.BUILD_BUILDID}`
				}
			: undefined
};
