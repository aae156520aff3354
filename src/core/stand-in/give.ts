import type { JsonObject, Json } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import type { Answer } from '../documents/stand-in.ts';
import { createEvaluator, createMarks, joined, latin1Bytes, type Names, type Segment } from '../values/index.ts';
import { act } from './act.ts';
import type { Reading } from './asked.ts';
import { passOn } from './pass-on.ts';
import { callOf, inVersion, soapStatus, turnAt, turnOf } from './turn.ts';
import { begun, EMPTY, type Answered, type Work } from './work.ts';

/** Gives an answer that fits. */
export async function give(
	work: Work,
	answer: Answer,
	reading: Reading,
	path: Record<string, string>,
	row: JsonObject | undefined,
	trial: boolean
): Promise<Answered> {
	const { spec, memory, evaluator, definitions } = work;
	const asked = memory.counts.get(answer.id) ?? 0;
	if (!trial) memory.counts.set(answer.id, asked + 1);
	const more: Partial<Names> = { asked: asked + 1, ...(row ? { row } : {}) };
	const marks = trial ? createMarks() : undefined;
	const own = marks ? createEvaluator(marks) : evaluator;
	const answered = begun(answer.id);
	if (answer.forward !== undefined)
		await passOn(work, answer.forward || spec.otherwise.forward, reading, answered, answer, path);
	else {
		const acted = answer.store ? await act(work, answer, reading, path, trial) : undefined;
		Object.assign(more, acted?.names);
		const scope = work.scope(reading, path, more);
		const turn = acted?.failed ? answer.missing : turnAt(answer, asked);
		if (!turn) Object.assign(answered.given, acted?.usual ?? { status: 200, headers: [], body: EMPTY });
		else {
			const soap = answer.operation ? definitions.soap(reading) : undefined;
			const usual = soapStatus(turn, soap?.operation.version) ?? acted?.usual.status ?? 200;
			const made = await turnOf(work, soap ? inVersion(turn, soap.operation.version) : turn, usual, scope, own);
			Object.assign(answered.given, made);
			if (acted && !turn.body) {
				answered.given.body = acted.usual.body;
				answered.given.headers = [...made.headers, ...besides(acted.usual.headers, made.headers)];
			} else if (acted) answered.given.headers = [...made.headers, ...besides(acted.usual.headers, made.headers)];
		}
	}
	const scope = work.scope(reading, path, more);
	for (const call of answer.calls) answered.calls.push(await callOf(work, call, scope));
	if (!trial && Object.keys(answer.set).length > 0) {
		const set = (await evaluator.deep(answer.set as Json, scope)) as JsonObject;
		memory.state = { ...memory.state, ...set };
	}
	if (marks) {
		const body = marks.takeBytes(answered.given.body);
		answered.given.body = latin1Bytes(joined(body));
		const values: { source: string; value: string }[] = [];
		const shown = body.map(({ text, fill }): Segment => {
			const own = decodedText(text);
			if (fill === undefined) return { text: own };
			const source = marks.sources[fill]!;
			let at = values.findIndex((one) => one.source === source);
			if (at < 0) at = values.push({ source, value: own }) - 1;
			return { text: own, fill: at };
		});
		answered.trial = { path, values, body: shown };
	}
	return answered;
}

/** Fields of a list whose names another one does not have. */
export const besides = (headers: HeaderList, there: HeaderList): HeaderList =>
	headers.filter(([name]) => !there.some(([own]) => own.toLowerCase() === name.toLowerCase()));

const decodedText = (octets: string): string => new TextDecoder().decode(latin1Bytes(octets));
