import type { BuildSystem } from './kind.ts';

export const teamcity: BuildSystem = {
	variables: 'TEAMCITY_VERSION',
	read: (env) =>
		env.TEAMCITY_VERSION
			? {
					job: env.TEAMCITY_BUILDCONF_NAME,
					build: env.BUILD_NUMBER,
					commit: env.BUILD_VCS_NUMBER,
					branch: env.TEAMCITY_BUILD_BRANCH,
					link: env.BUILD_URL
				}
			: undefined
};
