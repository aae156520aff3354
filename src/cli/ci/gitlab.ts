import type { BuildSystem } from './kind.ts';

export const gitlab: BuildSystem = {
	variables: 'GITLAB_CI',
	read: (env) =>
		env.GITLAB_CI
			? {
					job: env.CI_JOB_NAME,
					build: env.CI_PIPELINE_IID ?? env.CI_PIPELINE_ID,
					commit: env.CI_COMMIT_SHA,
					branch: env.CI_MERGE_REQUEST_SOURCE_BRANCH_NAME ?? env.CI_COMMIT_REF_NAME,
					link: env.CI_JOB_URL
				}
			: undefined
};
