import { answerBodies, type BodyTools } from '../bodies/index.ts';
import { HeronError, textOf } from '../errors.ts';
import { isObject, type JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import type { Answer, CallOut, Turn } from '../documents/stand-in.ts';
import { createEvaluator, escapeAddress, hasExpression, type Evaluator, type Scope } from '../values/index.ts';
import { EMPTY, type CallLater, type Made, type Work } from './work.ts';

const computes = (value: unknown): boolean =>
	typeof value === 'string'
		? hasExpression(value)
		: typeof value === 'object' &&
			value !== null &&
			Object.entries(value).some(([key, one]) => hasExpression(key) || computes(one));

const bodyTools = ({ ports, workspace }: Work, scope: Scope, own: Evaluator): BodyTools => ({
	...{ evaluator: own, scope, wsdls: workspace.wsdls, address: '' },
	randomBytes: (n) => ports.randomBytes(n),
	readFile(path) {
		const bytes = ports.readFile?.(path);
		if (!bytes) throw new HeronError('file.missing', { file: path });
		return bytes;
	}
});

/** Makes an answer: its status is the usual one where it says none. @throws HeronError value.*, file.missing */
export async function turnOf(work: Work, turn: Turn, usual: number, scope: Scope, own: Evaluator): Promise<Made> {
	const { evaluator, built } = work;
	const kept = own === evaluator ? built.get(turn) : undefined;
	if (kept) return kept;
	const status =
		Number(typeof turn.status === 'string' ? own.bare(await own.text(turn.status, scope)) : turn.status) || usual;
	const headers: HeaderList = [];
	for (const { name, value, off } of turn.headers) {
		if (off) continue;
		const text = own.bare(await own.text(String(value ?? ''), scope));
		// eslint-disable-next-line no-control-regex
		if (/[\0-\x08\x0a-\x1f\x7f]/.test(text)) throw new HeronError('value.header', { where: 'the header', name });
		headers.push([name, text]);
	}
	let body: Uint8Array = EMPTY;
	if (turn.body) {
		const { kind: key, value, type } = turn.body;
		const kind = answerBodies.find((one) => one.key === key)!;
		const made = await kind.build(value, bodyTools(work, scope, own));
		body = made.bytes;
		const contentType = type === undefined ? made.contentType : own.bare(await own.text(type, scope));
		if (!headers.some(([name]) => name.toLowerCase() === 'content-type')) headers.push(['Content-Type', contentType]);
	}
	const result = { status, headers, body };
	if (own === evaluator && !computes(turn)) built.set(turn, result);
	return result;
}

/** The answer in turn, by how often it was asked before. */
export const turnAt = ({ turns }: Answer, asked: number): Turn | undefined => {
	let left = asked;
	for (const turn of turns) {
		if (left < turn.times) return turn;
		left -= turn.times;
	}
	return turns.at(-1);
};

/** A call that goes out, as it is now. */
export async function callOf(work: Work, call: CallOut, scope: Scope): Promise<CallLater> {
	try {
		const url = (await work.evaluator.text(call.address, scope, opening(call.address))).trim();
		if (!/^https?:\/\//i.test(url) || !URL.canParse(url)) throw new HeronError('value.address', { address: url });
		const { headers, body } = await turnOf(
			work,
			{ status: 0, headers: call.headers, times: 1, ...(call.body ? { body: call.body } : {}) },
			0,
			scope,
			createEvaluator()
		);
		return { after: call.after, outgoing: { method: call.method, url, headers, body } };
	} catch (error) {
		return { after: call.after, error: textOf(error) };
	}
}

const opening = (address: string) => (address.startsWith('{$') ? (text: string) => text : escapeAddress);

/** An answer for the version of SOAP that was asked in. */
export function inVersion(turn: Turn, version: string): Turn {
	if (turn.body?.kind !== 'soap' || !isObject(turn.body.value)) return turn;
	return { ...turn, body: { ...turn.body, value: { ...(turn.body.value as JsonObject), version } } };
}
/** The status that goes with a fault (SOAP 1.1 section 6.2, SOAP 1.2 part 2 section 7.5.2.2). */
export function soapStatus({ body }: Turn, version: string | undefined): number | undefined {
	if (body?.kind !== 'soap' || !isObject(body.value) || !isObject(body.value.fault)) return undefined;
	const { code } = body.value.fault;
	return version === '1.2' && (code === 'Client' || code === 'Sender') ? 400 : 500;
}
