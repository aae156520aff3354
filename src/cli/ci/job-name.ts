import type { BuildSystem } from './kind.ts';

/** Servers that give a job its name and number, and Git's facts by its plug-ins. */
export const jobName: BuildSystem = {
	variables: 'JOB_NAME and BUILD_NUMBER',
	read: (env) =>
		env.JOB_NAME && env.BUILD_NUMBER
			? {
					job: env.JOB_NAME,
					build: env.BUILD_NUMBER,
					commit: env.GIT_COMMIT,
					branch: (env.CHANGE_BRANCH ?? env.BRANCH_NAME ?? env.GIT_BRANCH)?.replace(/^origin\//, ''),
					link: env.BUILD_URL
				}
			: undefined
};
