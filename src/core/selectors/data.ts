import type { Json } from '../model/json.ts';
import { mediaType } from '../model/reply.ts';
import type { ReplyView } from '../model/view.ts';
import type { Selected } from '../model/selected.ts';

/** Media types whose bodies are read as lists: tables, documents a line, events, parts. */
const LISTS = /^(text\/(csv|tab-separated-values|event-stream)|multipart\/(?!related).*|.*(ndjson|jsonl|json-seq).*)$/;
const TABLE = /^text\/(csv|tab-separated-values)$/;
/** One document a line is often sent as if it were one document. */
const LINES = /^\s*\{[^\n]*\}\s*\n\s*\{/;

const read = new WeakMap<ReplyView, Promise<Json>>();

/**
 * The body as data: JSON, or the list that is read of a table, of documents a line, of events or of parts. What reads these is
 * loaded when it is needed.
 * @throws HeronError selector.body when it is none of them
 */
export function dataOf(view: ReplyView): Json | Promise<Json> {
	if (!LISTS.test(mediaType(view.reply.headers).type)) {
		try {
			return view.json();
		} catch (error) {
			if (!LINES.test(view.text)) throw error;
		}
	}
	let found = read.get(view);
	if (!found) read.set(view, (found = readList(view)));
	return found;
}

/** Cells of a table are text because their format knows nothing else. */
export const asRead = (view: ReplyView, found: Selected): Selected =>
	found.found && TABLE.test(mediaType(view.reply.headers).type) ? { ...found, text: true } : found;

async function readList(view: ReplyView): Promise<Json> {
	const { body, headers } = view.reply;
	const { readBody } = await import('../reading/read.ts');
	return readBody(body, headers).data ?? view.json();
}
