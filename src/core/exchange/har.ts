import { HeronError, textOf } from '../errors.ts';
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

/**
 * Reads an HTTP Archive 1.2.
 * @throws HeronError exchange.har with the place of what is wrong
 */
export function readHar(text: string): Recorded[] {
	let value: Json;
	try {
		value = parseJson(text.replace(/^\uFEFF/, ''));
	} catch (cause) {
		throw new HeronError('exchange.har', { detail: `it is not JSON: ${textOf(cause)}` }, { cause });
	}
	const log = isObject(value) ? value.log : undefined;
	const entries = isObject(log) ? log.entries : undefined;
	if (!Array.isArray(entries)) throw new HeronError('exchange.har', { detail: 'log.entries is missing' });
	return entries.flatMap((given: unknown, index): Recorded[] => {
		const where = `entry ${index + 1}`;
		const entry = isObject(given) ? given : {};
		const { request, response } = entry;
		if (!isObject(request) || !isObject(response))
			throw new HeronError('exchange.har', { detail: `${where} has no request or no response` });
		const url = String(request.url ?? '');
		if (!URL.canParse(url))
			throw new HeronError('exchange.har', { detail: `${where}: "${shortened(url, 80)}" is no address` });
		const status = Number(response.status);
		// what was blocked or broken off has none; what a page makes up for itself (data:, blob:) went nowhere
		if (!Number.isInteger(status) || status < 200 || !/^https?:/i.test(url)) return [];
		const posted = isObject(request.postData) ? request.postData : {};
		const parts = partsIn(posted.params);
		return [
			{
				method: String(request.method ?? 'GET').toUpperCase(),
				url,
				requestHeaders: fieldsIn(request.headers),
				requestBody: typeof posted.text === 'string' ? posted.text : undefined,
				...(typeof posted.text !== 'string' && parts.length > 0 ? { requestParts: parts } : {}),
				status,
				headers: fieldsIn(response.headers),
				body: contentOf(response.content, where)
			}
		];
	});
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

function contentOf(given: unknown, where: string): string | undefined {
	if (!isObject(given) || typeof given.text !== 'string') return undefined;
	if (given.encoding !== 'base64') return given.text;
	try {
		const { text, valid } = decodeText(base64ToBytes(given.text));
		return valid ? text : undefined;
	} catch (cause) {
		throw new HeronError('exchange.har', { detail: `${where}: its content is no base64` }, { cause });
	}
}

/** What a page fetches for itself: pictures, styles, scripts, fonts, sound. */
export const isStatic = (type: string): boolean =>
	/^(image|font|video|audio)\/|^text\/css|javascript|wasm|^application\/(font|x-font|manifest)/.test(type);
