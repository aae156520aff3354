import { HeronError } from '#core/errors.ts';
import { parseStep } from '#core/steps/index.ts';
import { allScenarios, misfits, rehearseStep, scopeOf } from '#core/run/index.ts';
import { contextOf, type Handler, recall, withRow } from './context.ts';

export const preview: Handler<'preview'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const step = parseStep(order.step);
	if (!step.send) throw new HeronError('step.noRequest');
	const key = `${order.collection}/${order.scenario}`;
	const chosen = allScenarios(context.workspace).find((one) => one.key === key);
	if (!chosen) throw new HeronError('request.notFound', { what: `the scenario ${key}` });
	const memory = await recall(job, chosen, order.outputs, context);
	const here = await withRow(context, chosen, step, order.row, memory);
	const { request, through, credential, later, pieces } = await rehearseStep(chosen, step, memory, here);
	const { method, url, headers, origins, body } = redactor.record(request, ['method', 'origins']);
	const scope = scopeOf(here, memory);
	const unfit = await misfits({ spec: { ...step.send, connection: through }, chosen, request, scope }, here);
	return {
		...{ method, url, headers, origins, body, credential, pieces, ...(later ? { later } : {}) },
		...(unfit.length > 0 ? { unfit: unfit.map((one) => redactor.text(one)) } : {})
	};
};
