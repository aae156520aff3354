import { parseStandIn } from '#core/documents/stand-in.ts';
import { trialService } from '../stand-in/trial.ts';
import { contextOf, type Handler } from './context.ts';

/** A request that the definition has for an entry. */
export const madeUp: Handler<'madeUp'> = async (job, redactor) => {
	const { name, value, environment, entry } = job.order;
	const service = await trialService(parseStandIn(name, value), await contextOf(job, environment, redactor));
	const answer = service.spec.answers.find((one) => one.entry === entry);
	const asked = answer && service.definitions.asked(answer);
	if (!asked) return null;
	const { method, target, headers, body } = asked;
	return { method, target, headers, body: new TextDecoder().decode(body) };
};
