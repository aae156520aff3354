import { isObject, same, type Json, type JsonObject } from '../model/json.ts';
import { isJsonType, isXmlType, mediaType, type HeaderList } from '../model/reply.ts';
import { getIn } from '../model/path.ts';
import { xpathOf } from '../model/xml-data.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { SHAPES } from './relation.ts';

/** A check that an answer suggests. */
export interface Suggestion {
	text: string;
	/** Why it is suggested. */
	why: string;
	check: JsonObject;
	/** A file that has to be made for it. */
	schema?: JsonObject;
}

/** An answer for which checks are suggested. */
export interface Answered {
	status: number;
	headers: HeaderList;
	data?: Json;
	/** The fault that its envelope holds. */
	fault?: { code: string; reasons: { text: string }[] };
	/** It is the answer of a call that has a definition. */
	defined?: boolean;
	/** The definition is a WSDL: the answer is an envelope. */
	soap?: boolean;
}

const MOST = 14;
/** Names of fields that whoever reads an answer depends on. */
const NAMES = /^(id|uuid|reference|href|self|location|links?|_links|token|access_token|number|code)$/i;

type Path = (string | number)[];

const DEEPEST = 3;

/** Where the content of an XML document begins: below its root, and in an envelope below the body. */
function contentOf(data: Json): Path {
	const only = (value: Json | undefined) => (isObject(value) ? (Object.keys(value)[0] ?? '') : '');
	const root = only(data);
	const body = getIn(data, [root, 'Body']) as Json | undefined;
	return root === 'Envelope' && body !== undefined ? [root, 'Body', only(body)] : [root];
}

/** Plain values near the top, with their place; of lists the first item alone. */
function* near(value: Json, path: Path, deepest: number): Generator<{ path: Path; value: Json }> {
	if (path.length > deepest) return;
	if (Array.isArray(value)) {
		yield { path, value };
		return;
	}
	if (!isObject(value)) {
		yield { path, value };
		return;
	}
	for (const [name, one] of Object.entries(value)) yield* near(one as Json, [...path, name], deepest);
}

/**
 * Checks that an answer suggests, the likeliest first. Nothing that is checked already is among them.
 * @param earlier answers of the same call, the newest first: what held in all of them is suggested with more right
 * @param file where a schema would be written
 */
export function suggestChecks(
	now: Answered,
	earlier: Answered[],
	checks: JsonObject[],
	file: string,
	schema: () => JsonObject
): Suggestion[] {
	const out: Suggestion[] = [];
	const has = (subject: string) => checks.some((check) => Object.hasOwn(check, subject));
	const looksAt = (selector: string, relation?: string) =>
		checks.some((check) => check.body === selector && (relation === undefined || Object.hasOwn(check, relation)));
	const alike = earlier.filter(({ status }) => status === now.status);
	const times = alike.length + 1;
	const seen = times > 1 ? `the same in the last ${times} answers` : 'from this answer';

	if (!has('status')) out.push({ text: `status ${now.status}`, why: seen, check: { status: now.status } });
	const { type } = mediaType(now.headers);
	const isType = (check: JsonObject) => /^content-type$/i.test(String(check.header ?? ''));
	if (type && !checks.some(isType))
		out.push({ text: `Content-Type ${type}`, why: seen, check: { header: 'Content-Type', contains: type } });
	if (now.defined && !has('contract'))
		out.unshift({ text: 'it fits the contract', why: 'the call has a definition', check: { contract: true } });
	if (now.fault && !checks.some((check) => check.fault === 'code' && check.present !== false)) {
		const { code, reasons } = now.fault;
		out.unshift({ text: `a fault is expected: ${code}`, why: seen, check: { fault: 'code', equals: code } });
		if (reasons[0]?.text)
			out.push({
				text: `its reason is ${reasons[0].text}`,
				why: seen,
				check: { fault: 'reason', equals: reasons[0].text }
			});
	} else if (now.soap && !now.fault && !has('fault'))
		out.unshift({ text: 'no fault', why: seen, check: { fault: 'code', present: false } });
	if (now.data === undefined || now.fault) return withTime();
	const xml = now.soap || isXmlType(type);
	const selectorOf = xml ? xpathOf : jsonPathOf;
	const top = xml ? contentOf(now.data) : [];
	const data = getIn(now.data, top) as Json | undefined;
	if (data === undefined) return withTime();
	const values = () => near(data, top, top.length + DEEPEST);

	if (isJsonType(type) && !has('schema') && typeof now.data === 'object')
		out.push({
			text: 'the shape of it, as a schema',
			why: times > 1 ? `inferred from ${times} answers` : 'inferred from this answer',
			check: { schema: file },
			schema: schema()
		});
	if (Array.isArray(data)) listChecks(top, data);
	for (const { path, value } of values()) {
		const selector = selectorOf(path);
		const name = String(path.at(-1) ?? '').replace(/^@/, '');
		if (Array.isArray(value)) {
			if (path.length > top.length) listChecks(path, value);
		} else if (NAMES.test(name) && !looksAt(selector)) {
			const shape = typeof value === 'string' ? SHAPES.find(([pattern]) => pattern.test(value)) : undefined;
			if (shape?.[1])
				out.push({
					text: `${selector} looks like ${value}`,
					why: 'an identifier',
					check: { body: selector, matches: shape[1] }
				});
			else if (value !== null)
				out.push({
					text: `${selector} is present`,
					why: 'others refer to it',
					check: { body: selector, present: true }
				});
		}
	}
	// a number that counts a list beside it
	for (const { path, value } of xml ? [] : values()) {
		if (typeof value !== 'number' || !/^(total|count|size|length|number_?of\w*)$/i.test(String(path.at(-1) ?? '')))
			continue;
		const beside = getIn(now.data, path.slice(0, -1));
		for (const [name, list] of Object.entries(isObject(beside) ? beside : {}))
			if (Array.isArray(list) && list.length === value) {
				const selector = jsonPathOf([...path.slice(0, -1), name]);
				const counted = `{$response.body.${path.join('.')}}`;
				if (!looksAt(selector, 'count'))
					out.push({
						text: `${selector} has as many items as ${jsonPathOf(path)} says`,
						why: 'the two agree',
						check: { body: selector, count: counted }
					});
			}
	}
	if (alike.length > 0) {
		for (const { path, value } of values()) {
			const selector = selectorOf(path);
			if (typeof value === 'object' || looksAt(selector) || value === '') continue;
			if (alike.every((one) => same(getIn(one.data, path), value)))
				out.push({
					text: `${selector} equals ${String(value).slice(0, 40)}`,
					why: seen,
					check: { body: selector, equals: value }
				});
		}
	}
	return withTime();

	function listChecks(path: Path, list: Json[]): void {
		const selector = selectorOf(path);
		if (looksAt(selector)) return;
		const counts = [
			list.length,
			...alike.map((one) => getIn(one.data, path)).map((one) => (Array.isArray(one) ? one.length : -1))
		];
		if (alike.length > 0 && counts.every((n) => n === counts[0]))
			out.push({ text: `${selector} has ${counts[0]} items`, why: seen, check: { body: selector, count: counts[0]! } });
		else if (list.length > 0)
			out.push({ text: `${selector} is not empty`, why: seen, check: { body: selector, count: { atLeast: 1 } } });
		const first = list[0];
		if (!isObject(first) || list.length < 2) return;
		const key = Object.keys(first).find(
			(name) => NAMES.test(name.replace(/^@/, '')) && typeof first[name] !== 'object'
		);
		const keys = key ? list.map((item) => (isObject(item) ? item[key] : undefined)) : [];
		const each = xml ? selectorOf([...path, key ?? '']) : selector;
		if (key && new Set(keys).size === list.length && !looksAt(each))
			out.push({
				text: `no ${key} of ${selector} stands twice`,
				why: 'true of this answer',
				check: xml ? { body: each, unique: true } : { body: each, unique: key }
			});
	}
	function withTime(): Suggestion[] {
		if (!has('time'))
			out.push({ text: 'time below 1 s', why: 'a limit to start with', check: { time: { below: '1 s' } } });
		return out.slice(0, MOST);
	}
}
