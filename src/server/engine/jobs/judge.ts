import { HeronError } from '#core/errors.ts';
import { parseStep } from '#core/steps/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { viewReply } from '#core/model/view.ts';
import { nameOf } from '#core/openapi/index.ts';
import { maskOf } from '#core/model/mask.ts';
import {
	allScenarios,
	blankRequest,
	judgeReply,
	keepOne,
	namespacesFor,
	operationOf,
	type PreparedRequest,
	scopeOf,
	tokenNames
} from '#core/run/index.ts';
import type { JudgeAnswer } from '../protocol.ts';
import { contextOf, type Handler, recall, withRow } from './context.ts';

export const judgeJob: Handler<'judge'> = async (job, redactor) => {
	const { order } = job;
	const { exchange } = order;
	const context = await contextOf(job, order.environment, redactor);
	const given = parseStep(order.step);
	const { send } = given;
	if (!send || !exchange.reply) throw new HeronError('step.noAnswer');
	const key = `${order.collection}/${order.scenario}`;
	const chosen = allScenarios(context.workspace).find((one) => one.key === key);
	if (!chosen) throw new HeronError('request.notFound', { what: `the scenario ${key}` });
	const memory = await recall(job, chosen, order.outputs, context);
	const here = await withRow(context, chosen, given, order.row, memory);
	const request: PreparedRequest = {
		...blankRequest(exchange.method, exchange.url, job.agent),
		headers: exchange.requestHeaders,
		body: exchange.requestBody
	};
	const view = viewReply(exchange.reply, context.ports.xml, namespacesFor(chosen, send, context));
	const kept: JsonObject = {};
	const own = chosen.scenario.steps.find(({ id }) => id === given.id);
	const hidden = (own && tokenNames(context.workspace).get(own)) ?? new Set();
	for (const one of send.keep) {
		const value = await Promise.resolve(keepOne(one, view, exchange.url)).catch(() => undefined);
		if (value !== undefined) kept[one.name] = hidden.has(one.name) ? maskOf(`${given.id}.${one.name}`) : value;
	}
	view.close();
	const checks = await judgeReply(chosen, exchange, request, send, memory, here);
	const called = { spec: send, chosen, request, scope: scopeOf(here, memory) };
	const operation = await operationOf(called, here).then(
		(found) => `${nameOf(found)} of ${found.document.file.replace('definitions/', '')}`,
		() => undefined
	);
	const answer: JudgeAnswer = { checks, kept, ...(operation ? { operation } : {}) };
	return { ...redactor.record(answer, ['relation']), kept: redactor.deep(kept) };
};
