import { HeronError, type Problem } from '#core/errors.ts';
import { standInOf } from '#core/documents/connection.ts';
import { findUnresolved, openRows, rowStarts, runnableScenarios, type StartNames } from '#core/run/index.ts';
import { contextOf, type Handler } from './context.ts';

export const resolve: Handler<'resolve'> = async (job, redactor) => {
	const { workspace, start, ports } = await contextOf(job, job.order.environment, redactor);
	const all = runnableScenarios(workspace);
	const trouble: Problem[] = [];
	const starts = new Map<string, StartNames>();
	for (const chosen of all) {
		if (!chosen.scenario.rows) continue;
		try {
			for (const [key, one] of await rowStarts(await openRows([chosen], {}, ports), start)) starts.set(key, one);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			const at = workspace.collections.get(chosen.collection)!.scenarios.indexOf(chosen.scenario);
			const file = `collections/${chosen.collection}.yaml`;
			trouble.push({ code: error.code, message: error.message, file, path: ['scenarios', at, 'rows'] });
		}
	}
	const problems = [...trouble, ...findUnresolved(workspace, all, start, starts)];
	const hidden = problems.map((problem) => redactor.record(problem, ['code', 'file', 'path', 'missing']));
	const values = Object.fromEntries(Object.entries(start.names.env).filter(([name]) => standInOf(name) === undefined));
	return { problems: hidden, values: redactor.deep(values) };
};
