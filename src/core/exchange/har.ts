import { HeronError, textOf } from '../errors.ts';
import { counted } from '../messages.ts';
import { isObject, parseJson, type Json } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
import { base64ToBytes, decodeText } from '../values/index.ts';
import type { SentPart } from './call.ts';

/** A call with its answer, as it was recorded; bodies as text, undefined where they are none. */
export interface Recorded {
	method: string;
	url: string;
	requestHeaders: HeaderList;
	requestBody: string | undefined;
	/** The body as parts, where the recording has it in no other form. */
	requestParts?: SentPart[];
	status: number;
	headers: HeaderList;
	body: string | undefined;
}

/** The calls of a recording that have an answer, and what could not be read of it, in words. */
export interface ReadRecording {
	calls: Recorded[];
	notes: string[];
}

/** More entries than these that cannot be read are counted. */
const TOLD = 3;

/**
 * Reads an HTTP Archive 1.2. Entries that cannot be read are left out and told, as long as others can.
 * @throws HeronError exchange.har with the place of what is wrong
 */
export function readHar(text: string): ReadRecording {
	let value: Json;
	try {
		value = parseJson(text.replace(/^\uFEFF/, ''));
	} catch (cause) {
		throw new HeronError('exchange.har', { detail: `it is not JSON: ${textOf(cause)}` }, { cause });
	}
	const log = isObject(value) ? value.log : undefined;
	const entries = isObject(log) ? log.entries : undefined;
	if (!Array.isArray(entries)) throw new HeronError('exchange.har', { detail: 'log.entries is missing' });
	const calls: Recorded[] = [];
	const wrong: string[] = [];
	for (const [index, entry] of entries.entries()) {
		const read = readEntry(entry);
		if (typeof read === 'string') wrong.push(`entry ${index + 1} ${read}`);
		else if (read) calls.push(read);
	}
	if (wrong.length > 0 && wrong.length === entries.length) throw new HeronError('exchange.har', { detail: wrong[0]! });
	const more = wrong.length - TOLD;
	return {
		calls,
		notes: [
			...wrong.slice(0, TOLD).map((one) => `${one}: it is left out`),
			...(more > 0
				? [`${counted(more, 'more entry', 'more entries')} cannot be read, and ${more > 1 ? 'are' : 'is'} left out`]
				: [])
		]
	};
}

/** One entry; undefined for a call that has no answer, and a text for what is wrong with it. */
function readEntry(given: unknown): Recorded | undefined | string {
	const { request, response } = isObject(given) ? given : {};
	if (!isObject(request) || !isObject(response)) return 'has no request or no response';
	const url = String(request.url ?? '');
	if (!URL.canParse(url)) return `calls "${shortened(url, 80)}", which is no address`;
	const status = Number(response.status);
	// what was blocked or broken off has none; what a page makes up for itself (data:, blob:) went nowhere
	if (!Number.isInteger(status) || status < 200 || !/^https?:/i.test(url)) return undefined;
	const posted = isObject(request.postData) ? request.postData : {};
	const parts = partsIn(posted.params);
	const body = contentOf(response.content);
	if (body === NO_BASE64) return 'has a content that is no base64';
	return {
		method: String(request.method ?? 'GET').toUpperCase(),
		url,
		requestHeaders: fieldsIn(request.headers),
		requestBody: typeof posted.text === 'string' ? posted.text : undefined,
		...(typeof posted.text !== 'string' && parts.length > 0 ? { requestParts: parts } : {}),
		status,
		headers: fieldsIn(response.headers),
		body
	};
}

const fieldsIn = (given: unknown): HeaderList =>
	(Array.isArray(given) ? given : []).flatMap((one: unknown): HeaderList =>
		// the pseudo-fields of HTTP/2 are told elsewhere
		isObject(one) && typeof one.name === 'string' && !one.name.startsWith(':')
			? [[one.name, String(one.value ?? '')]]
			: []
	);

const partsIn = (given: unknown): SentPart[] =>
	(Array.isArray(given) ? given : []).flatMap((one: unknown): SentPart[] => {
		if (!isObject(one) || typeof one.name !== 'string') return [];
		const file = typeof one.fileName === 'string' ? one.fileName : '';
		return [
			{
				...{ name: one.name, value: file || String(one.value ?? ''), ...(file ? { file: true } : {}) },
				...(typeof one.contentType === 'string' && one.contentType ? { type: one.contentType } : {})
			}
		];
	});

const NO_BASE64 = Symbol('no base64');

function contentOf(given: unknown): string | undefined | typeof NO_BASE64 {
	if (!isObject(given) || typeof given.text !== 'string') return undefined;
	if (given.encoding !== 'base64') return given.text;
	try {
		const { text, valid } = decodeText(base64ToBytes(given.text));
		return valid ? text : undefined;
	} catch {
		return NO_BASE64;
	}
}

/** What a page fetches for itself: pictures, styles, scripts, fonts, sound. */
export const isStatic = (type: string): boolean =>
	/^(image|font|video|audio)\/|^text\/css|javascript|wasm|^application\/(font|x-font|manifest)/.test(type);
