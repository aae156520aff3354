import { azure } from './azure.ts';
import { bitbucket } from './bitbucket.ts';
import { buildkite } from './buildkite.ts';
import { circleci } from './circleci.ts';
import { generic } from './generic.ts';
import { github } from './github.ts';
import { gitlab } from './gitlab.ts';
import { jobName } from './job-name.ts';
import type { BuildFacts, BuildSystem, Environment } from './kind.ts';
import { teamcity } from './teamcity.ts';

export type { BuildFacts } from './kind.ts';

/** The first that knows itself is taken. */
export const buildSystems: readonly BuildSystem[] = [
	...[github, gitlab, azure, bitbucket, circleci, teamcity, buildkite],
	...[jobName, generic]
];

/** What the build system tells by the variables of its environment; empty texts are nothing. */
export function buildFacts(env: Environment): BuildFacts {
	for (const system of buildSystems) {
		const facts = system.read(env);
		if (!facts) continue;
		const stated = Object.entries(facts).filter(([, value]) => typeof value === 'string' && value.trim() !== '');
		const plain = Object.fromEntries(stated) as BuildFacts;
		// a link is drawn as one: nothing but an address of the web may be in it
		if (plain.link && !/^https?:\/\//i.test(plain.link)) delete plain.link;
		return plain;
	}
	return {};
}
