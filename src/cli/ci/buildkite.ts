import type { BuildSystem } from './kind.ts';

export const buildkite: BuildSystem = {
	variables: 'BUILDKITE',
	read: (env) =>
		env.BUILDKITE
			? {
					job: [env.BUILDKITE_PIPELINE_SLUG, env.BUILDKITE_LABEL].filter(Boolean).join(' / '),
					build: env.BUILDKITE_BUILD_NUMBER,
					commit: env.BUILDKITE_COMMIT,
					branch: env.BUILDKITE_BRANCH,
					link: env.BUILDKITE_BUILD_URL
				}
			: undefined
};
