import { makeRows } from '#core/datasets/index.ts';
import { emptyMemory, scopeOf } from '#core/run/index.ts';
import { contextOf, type Handler, portsOf } from './context.ts';

export const make: Handler<'make'> = async (job, redactor, stop) => {
	const { columns, count, seed, environment } = job.order;
	const context = await contextOf(job, environment, redactor);
	const scope = { ...scopeOf(context, emptyMemory(context.ports)), ports: portsOf(job, environment, seed) };
	const pause = () => new Promise<void>((resolve) => setImmediate(resolve));
	const rows = await makeRows(columns, count, { evaluator: context.evaluator, scope, signal: stop.signal, pause });
	return redactor.deep(rows);
};
