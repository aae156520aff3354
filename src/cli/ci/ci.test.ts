import { describe, expect, test } from 'vitest';
import { buildFacts, buildSystems } from './index.ts';

const LINK = 'https://build.reedmere.example/418';

describe('what a build system says of itself', () => {
	test.each<[string, Record<string, string>, object]>([
		[
			'a workflow',
			{
				...{ GITHUB_ACTIONS: 'true', GITHUB_WORKFLOW: 'Deploy', GITHUB_JOB: 'moorings', GITHUB_RUN_NUMBER: '418' },
				...{ GITHUB_SHA: 'abc', GITHUB_REF_NAME: '7/merge', GITHUB_HEAD_REF: 'dredge', CI: 'true' },
				...{ GITHUB_SERVER_URL: 'https://build.reedmere.example', GITHUB_REPOSITORY: 'w/m', GITHUB_RUN_ID: '9' }
			},
			{
				...{ job: 'Deploy / moorings', build: '418', commit: 'abc', branch: 'dredge' },
				link: 'https://build.reedmere.example/w/m/actions/runs/9'
			}
		],
		[
			'a pipeline with jobs',
			{
				...{ GITLAB_CI: 'true', CI: 'true', CI_JOB_NAME: 'suite', CI_PIPELINE_IID: '418', CI_PIPELINE_ID: '90001' },
				...{ CI_COMMIT_SHA: 'abc', CI_COMMIT_REF_NAME: 'main', CI_JOB_URL: LINK }
			},
			{ job: 'suite', build: '418', commit: 'abc', branch: 'main', link: LINK }
		],
		[
			'a definition of builds',
			{
				...{
					TF_BUILD: 'True',
					BUILD_DEFINITIONNAME: 'moorings',
					BUILD_BUILDNUMBER: '20270501.4',
					BUILD_BUILDID: '418'
				},
				...{ BUILD_SOURCEVERSION: 'abc', BUILD_SOURCEBRANCH: 'refs/heads/feature/dredge' },
				...{ SYSTEM_COLLECTIONURI: 'https://build.reedmere.example/', SYSTEM_TEAMPROJECT: 'Lock Keepers' }
			},
			{
				...{ job: 'moorings', build: '20270501.4', commit: 'abc', branch: 'feature/dredge' },
				link: 'https://build.reedmere.example/Lock%20Keepers/_build/results?buildId=418'
			}
		],
		[
			'a repository with pipelines',
			{
				...{ BITBUCKET_BUILD_NUMBER: '418', BITBUCKET_REPO_SLUG: 'moorings', BITBUCKET_COMMIT: 'abc' },
				...{ BITBUCKET_TAG: 'v1', BITBUCKET_GIT_HTTP_ORIGIN: 'https://build.reedmere.example/w/m' }
			},
			{
				...{ job: 'moorings', build: '418', commit: 'abc', branch: 'v1' },
				link: 'https://build.reedmere.example/w/m/pipelines/results/418'
			}
		],
		[
			'a circle of jobs',
			{
				...{ CIRCLECI: 'true', CI: 'true', CIRCLE_JOB: 'suite', CIRCLE_BUILD_NUM: '418', CIRCLE_SHA1: 'abc' },
				...{ CIRCLE_BRANCH: 'main', CIRCLE_BUILD_URL: LINK }
			},
			{ job: 'suite', build: '418', commit: 'abc', branch: 'main', link: LINK }
		],
		[
			'a configuration of builds',
			{ TEAMCITY_VERSION: '2027', TEAMCITY_BUILDCONF_NAME: 'suite', BUILD_NUMBER: '418', BUILD_VCS_NUMBER: 'abc' },
			{ job: 'suite', build: '418', commit: 'abc' }
		],
		[
			'a pipeline of labelled steps',
			{
				...{ BUILDKITE: 'true', CI: 'true', BUILDKITE_PIPELINE_SLUG: 'moorings', BUILDKITE_LABEL: 'suite' },
				...{
					BUILDKITE_BUILD_NUMBER: '418',
					BUILDKITE_COMMIT: 'abc',
					BUILDKITE_BRANCH: 'main',
					BUILDKITE_BUILD_URL: LINK
				}
			},
			{ job: 'moorings / suite', build: '418', commit: 'abc', branch: 'main', link: LINK }
		],
		[
			'a server with jobs of a name',
			{ JOB_NAME: 'moorings/main', BUILD_NUMBER: '418', BUILD_URL: LINK, GIT_COMMIT: 'abc', GIT_BRANCH: 'origin/main' },
			{ job: 'moorings/main', build: '418', commit: 'abc', branch: 'main', link: LINK }
		],
		[
			'any other that says CI',
			{ CI: 'true', CI_PIPELINE_NUMBER: '418', CI_COMMIT_SHA: 'abc', CI_COMMIT_BRANCH: 'main', CI_PIPELINE_URL: LINK },
			{ build: '418', commit: 'abc', branch: 'main', link: LINK }
		],
		['a terminal', { HOME: '/tmp', BUILD_NUMBER: '1' }, {}],
		['CI switched off', { CI: 'false', CI_BUILD_NUMBER: '1' }, {}],
		[
			'a link that is none',
			{ JOB_NAME: 'a', BUILD_NUMBER: '1', BUILD_URL: 'javascript:alert(1)' },
			{ job: 'a', build: '1' }
		],
		['what is empty is not told', { CIRCLECI: 'true', CIRCLE_JOB: ' ', CIRCLE_TAG: '' }, {}]
	])('%s', (_, env, facts) => expect(buildFacts(env)).toEqual(facts));
	test('each is known by variables of its own', () => {
		expect(new Set(buildSystems.map(({ variables }) => variables)).size).toBe(buildSystems.length);
	});
});
