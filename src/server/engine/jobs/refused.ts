import { parseStandIn } from '#core/documents/stand-in.ts';
import { trialService } from '../stand-in/trial.ts';
import { contextOf, type Handler } from './context.ts';

/** What of a stand-in's answers cannot be as it stands on the screen. */
export const refused: Handler<'refused'> = async (job, redactor) => {
	const { name, value, environment } = job.order;
	const service = await trialService(parseStandIn(name, value), await contextOf(job, environment, redactor));
	return redactor.deep(await service.refused(environment !== ''));
};
