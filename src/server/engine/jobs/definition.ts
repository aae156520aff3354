import { fetchDefinition } from '../index.ts';
import { contextOf, type Handler } from './context.ts';

export const definition: Handler<'definition'> = async (job, redactor) => {
	const { address, name, connection, environment, others } = job.order;
	const context = await contextOf(job, environment, redactor);
	return fetchDefinition(address, `definitions/${name}`, connection, context, others);
};
