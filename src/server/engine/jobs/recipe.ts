import { checkVector, traceRecipe } from '#core/auth/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { allScenarios, blankRequest, emptyMemory, prepareCall, scopeOf, dryRunPorts } from '#core/run/index.ts';
import type { RecipeAnswer } from '../protocol.ts';
import { contextOf, type Handler, recall } from './context.ts';

/** A recipe with its live values: for the request of a step, and for its test vector. */
export const recipe: Handler<'recipe'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const answer: RecipeAnswer = { request: '' };
	try {
		const { request, scope } = await requestOfRecipe();
		answer.request = `${request.method} ${request.url}`;
		answer.trace = await traceRecipe(order.value, request, { evaluator: context.evaluator, scope });
	} catch (error) {
		answer.trouble = textOf(error);
	}
	if (order.value.vector !== undefined) {
		try {
			answer.vector = await checkVector(order.value, context.evaluator);
		} catch (error) {
			answer.vectorTrouble = textOf(error);
		}
	}
	// what the vector gives is made of test secrets, and may be seen
	const { vector, ...rest } = answer;
	return { ...redactor.record(rest), ...(vector ? { vector } : {}) };

	async function requestOfRecipe() {
		const quiet = { ...context, ports: dryRunPorts(context.ports) };
		if (!order.step) {
			const memory = emptyMemory(context.ports);
			return {
				request: blankRequest('GET', 'https://host.example/path?b=2&a=1', job.agent),
				scope: scopeOf(quiet, memory)
			};
		}
		const key = `${order.step.collection}/${order.step.scenario}`;
		const chosen = allScenarios(context.workspace).find((one) => one.key === key);
		const step = chosen?.scenario.steps.find((one) => one.id === order.step!.step);
		if (!chosen || !step?.send)
			throw new HeronError('request.notFound', { what: `the step ${key}/${order.step.step}` });
		const memory = await recall(job, chosen, order.outputs, context);
		const scope = scopeOf(quiet, memory);
		const { request } = await prepareCall(chosen, { ...step.send, credential: 'none' }, memory, quiet, scope);
		return { request, scope };
	}
};
