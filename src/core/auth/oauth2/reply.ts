import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { mediaType, type Reply } from '../../model/reply.ts';
import { shortened } from '../../model/shortened.ts';
import { decodeText } from '../../values/index.ts';

/** A token reply as data: JSON, or a form as some servers send it; undefined when it is neither. */
export function readReply(reply: Reply): { data?: JsonObject; form?: true } {
	const text = decodeText(reply.body).text.trim();
	try {
		const data: unknown = JSON.parse(text);
		return isObject(data) ? { data: data as JsonObject } : {};
	} catch {
		const { type } = mediaType(reply.headers);
		if (type === 'text/html' || !/^[\w.~-]+=[^<>\s]*(&[\w.~-]+=[^<>\s]*)*$/.test(text)) return {};
		return { data: Object.fromEntries(new URLSearchParams(text)) as JsonObject, form: true };
	}
}

/** What a reply that is of no use looks like, in words. */
export function replyInWords(reply: Reply): string {
	const { type } = mediaType(reply.headers);
	if (reply.body.length === 0) return `it answered ${reply.status} without a body`;
	const start = shortened(decodeText(reply.body).text.trim().replace(/\s+/g, ' '), 80);
	return `it answered ${reply.status} with ${type || 'no content type'}, not JSON: ${start}`;
}

/** A reply made such that a strict reader takes it; each oddity is noted. */
export function tolerated(data: JsonObject, form: boolean, status: number): { reply: JsonObject; notes: string[] } {
	const notes: string[] = [];
	const reply: JsonObject = { ...data };
	if (form) notes.push('the reply is a form where RFC 6749 wants JSON: it was read all the same');
	if (reply.access_token !== undefined) {
		if (status !== 200) notes.push(`the status is ${status} where RFC 6749 wants 200`);
		if (reply.token_type === undefined) notes.push('token_type is missing: taken as Bearer');
		else if (!/^bearer$/i.test(String(reply.token_type)))
			notes.push(`token_type is "${String(reply.token_type)}": used as Bearer`);
		reply.token_type = 'bearer';
	}
	if (typeof reply.expires_in === 'string') {
		notes.push(`expires_in is the text "${reply.expires_in}" where a number is wanted`);
		reply.expires_in = Number.parseFloat(reply.expires_in);
	}
	if (!isSeconds(reply.expires_in)) delete reply.expires_in;
	if (Array.isArray(reply.scope)) reply.scope = reply.scope.join(' ');
	if (reply.refresh_token === null) delete reply.refresh_token;
	// whose signature and audience are another matter than getting a token
	delete reply.id_token;
	return { reply, notes };
}
const isSeconds = (value: Json | undefined): boolean =>
	typeof value === 'number' && Number.isFinite(value) && value >= 0;
