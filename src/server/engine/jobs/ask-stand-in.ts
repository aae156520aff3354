import { parseStandIn } from '#core/documents/stand-in.ts';
import { type Answered, type Asked, type Service } from '#core/stand-in/index.ts';
import { trialService } from '../stand-in/trial.ts';
import type { AskAnswer } from '../protocol.ts';
import { contextOf, type Handler } from './context.ts';

export const askStandIn: Handler<'askStandIn'> = async (job, redactor) => {
	const { name, value, environment, call, request, remembered } = job.order;
	const service = await trialService(parseStandIn(name, value), await contextOf(job, environment, redactor));
	const { spec } = service;
	if (remembered) service.recall(remembered);
	const asked = {
		...{ method: request.method, target: request.target, headers: request.headers },
		body: new TextEncoder().encode(request.body),
		origin: `http://127.0.0.1:${spec.port || 80}`
	};
	const began = performance.now();
	const answered = call ? await callAlone(service, call, asked) : await service.ask(asked, { trial: true });
	const ms = performance.now() - began;
	const drift = await service.drift(asked, answered);
	const { given, trial } = answered;
	const answer: AskAnswer = {
		status: given.end === 'reset' || given.end === 'silent' ? 0 : given.status,
		headers: given.headers,
		body: trial ? trial.body : [{ text: new TextDecoder().decode(given.body) }],
		values: trial?.values ?? [],
		path: trial?.path ?? {},
		by: answered.by,
		tried: answered.tried,
		faults: answered.faults,
		notes: answered.notes,
		drift,
		held: spec.definition !== '' && answered.by !== '' && !answered.refused,
		...(answered.forwarded ? { forwarded: answered.forwarded } : {}),
		calls: answered.calls.map(({ after, outgoing, error }) => ({
			...{ after, method: outgoing?.method ?? '', url: outgoing?.url ?? '' },
			headers: outgoing?.headers ?? [],
			body: new TextDecoder().decode(outgoing?.body),
			...(error ? { error } : {})
		})),
		ms
	};
	return redactor.active ? { ...redactor.record(answer, ['by']), by: answer.by } : answer;
};

/** What goes out by itself, without an answer. */
async function callAlone(service: Service, id: string, asked: Asked): Promise<Answered> {
	const made = await service.send(id, asked);
	const drift = made.outgoing ? (await service.sentFaults(id, made.outgoing, undefined)).sent : [];
	const given: Answered['given'] = {
		status: 200,
		headers: [],
		body: new Uint8Array(),
		delay: 0,
		drip: 0,
		end: 'whole',
		surplus: 0
	};
	return { given, by: id, tried: [], faults: [], notes: drift, calls: [made], refused: true };
}
