import type { BuildSystem } from './kind.ts';

/** Any other that says CI, by the names that most of them share. */
export const generic: BuildSystem = {
	variables: 'CI',
	read: (env) =>
		env.CI && !/^(false|0)$/i.test(env.CI)
			? {
					job: env.CI_JOB_NAME ?? env.CI_WORKFLOW_NAME ?? env.CI_REPO,
					build: env.CI_BUILD_NUMBER ?? env.CI_PIPELINE_NUMBER ?? env.CI_PIPELINE_ID ?? env.BUILD_NUMBER,
					commit: env.CI_COMMIT_SHA ?? env.CI_COMMIT_ID ?? env.CI_COMMIT,
					branch: env.CI_COMMIT_BRANCH ?? env.CI_BRANCH ?? env.CI_COMMIT_REF_NAME,
					link: env.CI_BUILD_URL ?? env.CI_PIPELINE_URL ?? env.BUILD_URL
				}
			: undefined
};
