import { isObject, type JsonObject } from '../model/json.ts';
import { bodiesOf, permits, preferredBody, type OpenapiOperation } from '../openapi/index.ts';

/** Fields by which services tell things apart, and of which they often allow each value once. */
const NAMES = /(name|title|slug|login)$/i;
const EMAILS = /e-?mail$/i;
/** What `$unique` gives looks so. */
const UNIQUE = 'mh3j8f9k1z141z3a1';
const PLAIN = /^[\w .-]{0,40}$/;

/** The body of a call that makes a thing, with another name each time: what a run before left behind does not refuse it. */
export function unlikeBefore(operation: OpenapiOperation, body: JsonObject): JsonObject {
	const { json } = body;
	const schema = preferredBody(bodiesOf(operation))?.schema;
	if (!isObject(json)) return body;
	let changed = json as JsonObject;
	const put = (key: string, prefix: string, end = '') => {
		const made = { ...changed, [key]: `${prefix}${UNIQUE}${end}` };
		if (schema && !permits(schema, schema, made)) return false;
		changed = { ...changed, [key]: `{$unique("${prefix}")}${end}` };
		return true;
	};
	let named = false;
	for (const [key, value] of Object.entries(json)) {
		if (typeof value !== 'string') continue;
		if (EMAILS.test(key) && value.includes('@')) put(key, 'heron-', '@example.org');
		else if (!named && NAMES.test(key) && PLAIN.test(value)) named = put(key, value === '' ? '' : `${value}-`);
	}
	return changed === json ? body : { ...body, json: changed };
}
