import { HeronError, textOf } from '../errors.ts';
import { decodeText } from '../values/index.ts';
import type { Json } from './json.ts';
import { headerValue, headerValues, isJsonType, mediaType, type Reply } from './reply.ts';

/** A reply with its text and parsed body, each computed when first asked for. */
export interface ReplyView {
	readonly reply: Reply;
	readonly text: string;
	/** The body as data. @throws HeronError selector.body when it is not JSON */
	json(): Json;
	/** The body as data when it is JSON, else its text. */
	body(): Json;
	header(name: string): string | undefined;
	cookie(name: string): string | undefined;
}

/** Looks at a reply. */
export function viewReply(reply: Reply): ReplyView {
	let text: string | undefined;
	let parsed: { value: Json } | { error: HeronError } | undefined;
	const readText = () => (text ??= decodeText(reply.body, mediaType(reply.headers).charset).text);
	const parse = () => {
		if (!parsed) {
			try {
				parsed = { value: JSON.parse(readText()) as Json };
			} catch (cause) {
				const start = readText().slice(0, 40).trim();
				const detail = start ? `${textOf(cause)} (it starts with: ${start})` : 'it is empty';
				parsed = { error: new HeronError('selector.body', { detail }, { cause }) };
			}
		}
		return parsed;
	};
	return {
		reply,
		get text() {
			return readText();
		},
		json() {
			const result = parse();
			if ('error' in result) throw result.error;
			return result.value;
		},
		body() {
			const { type } = mediaType(reply.headers);
			if (!isJsonType(type) && !/^\s*[[{]/.test(readText().slice(0, 100))) return readText();
			const result = parse();
			return 'value' in result ? result.value : readText();
		},
		header: (name) => headerValue(reply.headers, name),
		cookie(name) {
			for (const line of headerValues(reply.headers, 'set-cookie')) {
				const pair = line.split(';')[0]!;
				const at = pair.indexOf('=');
				if (at > 0 && pair.slice(0, at).trim() === name) return pair.slice(at + 1).trim();
			}
			return undefined;
		}
	};
}
