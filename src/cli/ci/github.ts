import type { BuildSystem } from './kind.ts';

export const github: BuildSystem = {
	variables: 'GITHUB_ACTIONS',
	read: (env) =>
		env.GITHUB_ACTIONS
			? {
					job: [env.GITHUB_WORKFLOW, env.GITHUB_JOB].filter(Boolean).join(' / '),
					build: env.GITHUB_RUN_NUMBER,
					commit: env.GITHUB_SHA,
					branch: env.GITHUB_HEAD_REF || env.GITHUB_REF_NAME,
					link:
						env.GITHUB_SERVER_URL &&
						`${env.GITHUB_SERVER_URL}/${env.GITHUB_REPOSITORY}/actions/runs/${env.GITHUB_RUN_ID}`
				}
			: undefined
};
