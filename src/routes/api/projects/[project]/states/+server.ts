import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import type { ScenarioStates } from '$lib/wire.ts';

/** How each scenario stands in an environment, by the newest result of each of its steps. */
export const GET = endpoint(async ({ params, url }): Promise<ScenarioStates> => {
	const { projects, store } = await app();
	const { name, workspace } = await projects.open(params.project!);
	const results = await store.runs.states(name, url.searchParams.get('environment') ?? '');
	const byScenario = new Map<string, (typeof results)[number][]>();
	for (const one of results) {
		const list = byScenario.get(one.scenario);
		if (list) list.push(one);
		else byScenario.set(one.scenario, [one]);
	}
	const out: ScenarioStates = {};
	for (const { name: collection, scenarios } of workspace.collections.values())
		for (const { id, steps } of scenarios) {
			const found = byScenario.get(`${collection}/${id}`);
			if (!found) continue;
			// what was renamed or deleted since says nothing any more
			const known = new Map(steps.filter(({ off }) => !off).map((step, index) => [step.id, index]));
			const own = found.filter(({ step }) => known.has(step)).sort((a, b) => known.get(a.step)! - known.get(b.step)!);
			if (own.length === 0) continue;
			const bad = own.filter(({ outcome }) => outcome === 'failed' || outcome === 'error');
			out[`${collection}/${id}`] = {
				outcome: bad.some((one) => one.outcome === 'failed') ? 'failed' : bad.length > 0 ? 'error' : 'passed',
				bad: bad.length,
				...(bad[0] ? { first: bad[0].step } : {}),
				steps: own.length,
				of: known.size,
				ms: own.reduce((sum, { ms }) => sum + ms, 0),
				at: Math.max(...own.map(({ at }) => at))
			};
		}
	return out;
});
