import { reach } from '../reach/index.ts';
import { contextOf, type Handler, post } from './context.ts';

export const reachJob: Handler<'reach'> = async (job, redactor, stop) => {
	const context = await contextOf(job, job.order.environment, redactor, stop.signal);
	return reach(job.order, context, (stage) => post({ type: 'progress', id: job.id, stage }));
};
