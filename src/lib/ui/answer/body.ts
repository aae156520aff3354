import { parseJson, writeJson, type Json } from '#core/model/json.ts';
import { isJsonType, mediaType, type HeaderList } from '#core/model/reply.ts';
import { decodeText } from '#core/values/index.ts';
import type { StoredBody } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';

/** Above this a body is shown as text only, and its beginning alone. */
const PARSED_LIMIT = 8_000_000;
const TEXT_LIMIT = 400_000;

export interface LoadedBody {
	text: string;
	/** Parsed, when it is JSON. */
	data?: { value: Json };
	/** What a reader should know: a wrong type, a broken charset, a cut. */
	notes: string[];
	binary: boolean;
	bytes: Uint8Array;
}

const kept = new Map<string, Promise<LoadedBody>>();

function read(bytes: Uint8Array, headers: HeaderList, stored: StoredBody): LoadedBody {
	const { type, charset } = mediaType(headers);
	const notes: string[] = [];
	const { text: whole, valid } = decodeText(bytes, charset);
	const binary = !valid && !type.startsWith('text/') && !isJsonType(type);
	if (stored.kept < stored.size) notes.push(`only the first ${stored.kept} of ${stored.size} bytes were kept`);
	if (!valid && !binary) notes.push(`some bytes are not ${charset ?? 'UTF-8'}: they show as �`);
	const loaded: LoadedBody = { text: binary ? '' : whole.slice(0, TEXT_LIMIT), notes, binary, bytes };
	if (whole.length > TEXT_LIMIT && !binary)
		notes.push(`the text view shows the first ${TEXT_LIMIT} of ${whole.length} characters`);
	const looksJson = isJsonType(type) || /^\s*[[{]/.test(whole.slice(0, 50));
	if (looksJson && whole.length <= PARSED_LIMIT) {
		try {
			loaded.data = { value: parseJson(whole) };
		} catch (error) {
			if (isJsonType(type)) notes.push(`the header says ${type}, but the body is not JSON: ${messageOf(error)}`);
		}
	}
	return loaded;
}

/** A recorded body, read once. */
export function loadBody(stored: StoredBody, headers: HeaderList): Promise<LoadedBody> {
	const key = `${stored.hash} ${mediaType(headers).type}`;
	let body = kept.get(key);
	if (!body) {
		if (kept.size > 40) kept.clear();
		body = api.bytes(`/bodies/${stored.hash}`).then((bytes) => read(bytes, headers, stored));
		kept.set(key, body);
		body.catch(() => kept.delete(key));
	}
	return body;
}

/** A text with line breaks where JSON has none, for reading. */
export function pretty({ text, data }: LoadedBody): string {
	if (!data || text.length > 1_000_000) return text;
	try {
		return writeJson(data.value, 2);
	} catch {
		return text;
	}
}
