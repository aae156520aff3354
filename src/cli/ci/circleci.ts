import type { BuildSystem } from './kind.ts';

export const circleci: BuildSystem = {
	variables: 'CIRCLECI',
	read: (env) =>
		env.CIRCLECI
			? {
					job: env.CIRCLE_JOB,
					build: env.CIRCLE_BUILD_NUM,
					commit: env.CIRCLE_SHA1,
					branch: env.CIRCLE_BRANCH ?? env.CIRCLE_TAG,
					link: env.CIRCLE_BUILD_URL
				}
			: undefined
};
