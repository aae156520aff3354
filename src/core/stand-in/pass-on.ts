import { HeronError } from '../errors.ts';
import { writeJson } from '../model/json.ts';
import { headerValues, type HeaderList } from '../model/reply.ts';
import type { Answer } from '../documents/stand-in.ts';
import { utf8 } from '../values/index.ts';
import { readAsked, type Reading } from './asked.ts';
import { mergePatch } from './store.ts';
import { FAULT_HEADER } from './struck.ts';
import type { Answered, Work } from './work.ts';

/** Fields of one connection, which do not pass to the next (RFC 9110 section 7.6.1). */
const HOP = new Set([
	'connection',
	'keep-alive',
	'proxy-connection',
	'te',
	'trailer',
	'transfer-encoding',
	'upgrade',
	'host',
	'content-length',
	FAULT_HEADER
]);
const passed = (headers: HeaderList): HeaderList => headers.filter(([name]) => !HOP.has(name.toLowerCase()));

/**
 * Passes a request on, and changes what comes back as an answer says.
 * @throws HeronError send.*, standIn.loop, value.*
 */
export async function passOn(
	work: Work,
	to: string,
	reading: Reading,
	answered: Answered,
	answer: Answer | undefined,
	path: Record<string, string>
): Promise<void> {
	const { spec, ports, evaluator } = work;
	const scope = work.scope(reading, path);
	const base = (await evaluator.text(to, scope)).trim().replace(/\/+$/, '');
	if (!/^https?:\/\//i.test(base) || !URL.canParse(base))
		throw new HeronError('value.address', { address: base || 'nothing' });
	const { asked } = reading;
	const below = spec.base && asked.target.startsWith(spec.base) ? asked.target.slice(spec.base.length) : asked.target;
	const url = base + below;
	// RFC 9110 section 7.6.3: who has passed it on has said so
	const via = `1.1 heron-${spec.name}`;
	if (new URL(url).origin === asked.origin || headerValues(asked.headers, 'via').some((one) => one.includes(via)))
		throw new HeronError('standIn.loop', { name: spec.name });
	answered.forwarded = url;
	const headers: HeaderList = [...passed(asked.headers), ['Via', via]];
	const reply = await ports.send({ method: asked.method, url, headers, body: asked.body });
	let { status, body } = reply;
	let given = passed(reply.headers).filter(([name]) => !/^content-(encoding|length)$/i.test(name));
	if (answer) {
		const { change } = answer;
		if (change.status) status = Number(await evaluator.deep(change.status, scope)) || status;
		for (const { name, value, off } of change.headers) {
			if (off) continue;
			given = given.filter(([one]) => one.toLowerCase() !== name.toLowerCase());
			const text = await evaluator.text(String(value ?? ''), scope);
			if (text) given.push([name, text]);
		}
		if (change.json !== undefined) {
			const read = readAsked({ ...asked, headers: given, body }, ports.xml).view.json();
			body = utf8(writeJson(mergePatch(read, await evaluator.deep(change.json, scope))));
		}
	}
	Object.assign(answered.given, { status, headers: given, body });
}
