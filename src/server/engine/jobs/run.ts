import {
	choose,
	findUnresolved,
	type Memory,
	openRows,
	refuseProblems,
	rowStarts,
	runPlan,
	startNames
} from '#core/run/index.ts';
import { createWindow, windows } from './window.ts';
import { type Handler, portsOf, posted, recall, runningIn, stored, workspaceNow } from './context.ts';

const MOST_MEMORIES = 100;
export const run: Handler<'run'> = async (job, redactor, stop) => {
	const { id, order, sealed, agent } = job;
	const workspace = workspaceNow();
	const { scenarios } = choose(workspace, { targets: order.targets });
	const ports = portsOf(job, order.environment, order.info.seed);
	const start = await startNames(
		workspace,
		order.environment,
		{ set: { ...runningIn(job), ...order.set }, secrets: sealed.secrets, run: order.info },
		ports,
		redactor
	);
	const rows = await openRows(scenarios, order.rows, ports);
	// only what will be sent has to resolve
	refuseProblems(
		order.only.length === 0 ? findUnresolved(workspace, scenarios, start, await rowStarts(rows, start)) : []
	);
	const memories = new Map<string, Memory>();
	if (order.only.length > 0)
		for (const chosen of scenarios)
			memories.set(chosen.key, await recall(job, chosen, order.outputs, { workspace, redactor, ports }));
	const plan = {
		run: order.info,
		workspace,
		scenarios,
		start,
		rows,
		redactor,
		parallel: order.parallel,
		stopAfter: order.stopAfter,
		retries: order.retries,
		only: order.only,
		memories,
		agent
	};
	const window = createWindow(stop.signal);
	windows.set(id, window);
	try {
		for await (const events of runPlan(plan, ports, stop.signal)) {
			await posted({ type: 'progress', id, events });
			await window.posted(events);
		}
	} finally {
		windows.delete(id);
		// the newest ones: more are not kept
		for (const [scenario, memory] of [...memories].slice(-MOST_MEMORIES))
			await posted({ type: 'memory', id, environment: order.environment, scenario, memory: stored(memory) });
	}
	return null;
};
