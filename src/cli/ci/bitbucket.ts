import type { BuildSystem } from './kind.ts';

export const bitbucket: BuildSystem = {
	variables: 'BITBUCKET_BUILD_NUMBER',
	read: (env) =>
		env.BITBUCKET_BUILD_NUMBER
			? {
					job: env.BITBUCKET_REPO_SLUG,
					build: env.BITBUCKET_BUILD_NUMBER,
					commit: env.BITBUCKET_COMMIT,
					branch: env.BITBUCKET_BRANCH ?? env.BITBUCKET_TAG,
					link:
						env.BITBUCKET_GIT_HTTP_ORIGIN &&
						`${env.BITBUCKET_GIT_HTTP_ORIGIN}/pipelines/results/${env.BITBUCKET_BUILD_NUMBER}`
				}
			: undefined
};
