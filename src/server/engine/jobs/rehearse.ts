import { choose, openRows, rehearse } from '#core/run/index.ts';
import type { RehearseAnswer } from '../protocol.ts';
import { contextOf, type Handler } from './context.ts';

export const rehearsal: Handler<'rehearse'> = async (job, redactor) => {
	const { targets, environment, rows: choice, most } = job.order;
	const context = await contextOf(job, environment, redactor);
	const { scenarios } = choose(context.workspace, { targets });
	const rows = await openRows(scenarios, choice, context.ports);
	const answer: RehearseAnswer = { steps: [], more: false };
	for await (const step of rehearse({ context, scenarios, rows, redactor, seed: 1 })) {
		answer.more = answer.steps.length === most;
		if (answer.more) break;
		answer.steps.push(step);
	}
	return answer;
};
