import { isObject, same, type Json, type JsonObject } from '../model/json.ts';
import { isJsonType, isXmlType, mediaType, type HeaderList } from '../model/reply.ts';
import { getIn } from '../model/path.ts';
import { shortened } from '../model/shortened.ts';
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

/** Names of fields that count what is beside them. */
const COUNTS = /^(total|count|size|length|number_?of\w*)$/i;

type Path = (string | number)[];
type Near = { path: Path; value: Json };

const DEEPEST = 3;

/** Where the content of an XML document begins: below its root, and in an envelope below the body. */
function contentOf(data: Json): Path {
	const only = (value: Json | undefined) => (isObject(value) ? (Object.keys(value)[0] ?? '') : '');
	const root = only(data);
	const body = getIn(data, [root, 'Body']) as Json | undefined;
	return root === 'Envelope' && body !== undefined ? [root, 'Body', only(body)] : [root];
}

/** Plain values near the top, with their place; of lists the first item alone. */
function* near(value: Json, path: Path, deepest: number): Generator<Near> {
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

/** Looks at one answer beside those of the same call before it. */
class Suggester {
	readonly #now: Answered;
	readonly #checks: JsonObject[];
	/** Earlier answers with the same status, the newest first. */
	readonly #alike: Answered[];
	readonly #seen: string;
	readonly #type: string;
	readonly #xml: boolean;
	readonly #out: Suggestion[] = [];

	constructor(now: Answered, earlier: Answered[], checks: JsonObject[]) {
		this.#now = now;
		this.#checks = checks;
		this.#alike = earlier.filter(({ status }) => status === now.status);
		this.#seen = this.#alike.length > 0 ? `the same in the last ${this.#alike.length + 1} answers` : 'from this answer';
		this.#type = mediaType(now.headers).type;
		this.#xml = now.soap === true || isXmlType(this.#type);
	}

	/** @param schema is made where it is suggested, to be written to `file` */
	all(file: string, schema: () => JsonObject): Suggestion[] {
		this.#ofHead();
		const top = this.#now.data !== undefined && this.#xml ? contentOf(this.#now.data) : [];
		const data = this.#now.fault ? undefined : (getIn(this.#now.data, top) as Json | undefined);
		if (data !== undefined) {
			if (isJsonType(this.#type) && !this.#has('schema') && typeof this.#now.data === 'object')
				this.#suggest(
					'the shape of it, as a schema',
					this.#alike.length > 0 ? `inferred from ${this.#alike.length + 1} answers` : 'inferred from this answer',
					{ schema: file },
					{ schema: schema() }
				);
			const values = [...near(data, top, top.length + DEEPEST)];
			this.#ofNames(data, top, values);
			if (!this.#xml) this.#ofCounts(values);
			if (this.#alike.length > 0) this.#ofConstants(values);
		}
		if (!this.#has('time')) this.#suggest('time below 1 s', 'a limit to start with', { time: { below: '1 s' } });
		return this.#out.slice(0, MOST);
	}

	#suggest(text: string, why: string, check: JsonObject, more: { first?: true; schema?: JsonObject } = {}): void {
		const { first, ...rest } = more;
		this.#out[first ? 'unshift' : 'push']({ text, why, check, ...rest });
	}
	#has(subject: string): boolean {
		return this.#checks.some((check) => Object.hasOwn(check, subject));
	}
	#looksAt(selector: string, relation?: string): boolean {
		return this.#checks.some(
			(check) => check.body === selector && (relation === undefined || Object.hasOwn(check, relation))
		);
	}
	#selectorOf(path: Path): string {
		return this.#xml ? xpathOf(path) : jsonPathOf(path);
	}

	/** Status, media type, contract and fault. */
	#ofHead(): void {
		const { status, defined, fault, soap } = this.#now;
		const [type, seen, first] = [this.#type, this.#seen, { first: true } as const];
		if (!this.#has('status')) this.#suggest(`status ${status}`, seen, { status });
		const isType = (check: JsonObject) => /^content-type$/i.test(String(check.header ?? ''));
		if (type && !this.#checks.some(isType))
			this.#suggest(`Content-Type ${type}`, seen, { header: 'Content-Type', contains: type });
		if (defined && !this.#has('contract'))
			this.#suggest('it fits the contract', 'the call has a definition', { contract: true }, first);
		if (fault && !this.#checks.some((check) => check.fault === 'code' && check.present !== false)) {
			const { code, reasons } = fault;
			this.#suggest(`a fault is expected: ${code}`, seen, { fault: 'code', equals: code }, first);
			const reason = reasons[0]?.text;
			if (reason) this.#suggest(`its reason is ${reason}`, seen, { fault: 'reason', equals: reason });
		} else if (soap && !fault && !this.#has('fault'))
			this.#suggest('no fault', seen, { fault: 'code', present: false }, first);
	}

	/** Lists, and fields that others refer to. */
	#ofNames(data: Json, top: Path, values: Near[]): void {
		if (Array.isArray(data)) this.#ofList(top, data);
		for (const { path, value } of values) {
			const selector = this.#selectorOf(path);
			const name = String(path.at(-1) ?? '').replace(/^@/, '');
			if (Array.isArray(value)) {
				if (path.length > top.length) this.#ofList(path, value);
			} else if (NAMES.test(name) && !this.#looksAt(selector)) {
				const shape = typeof value === 'string' ? SHAPES.find(([pattern]) => pattern.test(value)) : undefined;
				if (shape?.[1])
					this.#suggest(`${selector} looks like ${String(value)}`, 'an identifier', {
						body: selector,
						matches: shape[1]
					});
				else if (value !== null)
					this.#suggest(`${selector} is present`, 'others refer to it', { body: selector, present: true });
			}
		}
	}
	#ofList(path: Path, list: Json[]): void {
		const selector = this.#selectorOf(path);
		if (this.#looksAt(selector)) return;
		const before = this.#alike.map((one) => getIn(one.data, path));
		if (before.length > 0 && before.every((one) => Array.isArray(one) && one.length === list.length))
			this.#suggest(`${selector} has ${list.length} items`, this.#seen, { body: selector, count: list.length });
		else if (list.length > 0)
			this.#suggest(`${selector} is not empty`, this.#seen, { body: selector, count: { atLeast: 1 } });
		const first = list[0];
		if (!isObject(first) || list.length < 2) return;
		const key = Object.keys(first).find(
			(name) => NAMES.test(name.replace(/^@/, '')) && typeof first[name] !== 'object'
		);
		if (!key) return;
		const keys = list.map((item) => (isObject(item) ? item[key] : undefined));
		const each = this.#xml ? this.#selectorOf([...path, key]) : selector;
		if (new Set(keys).size === list.length && !this.#looksAt(each))
			this.#suggest(`no ${key} of ${selector} stands twice`, 'true of this answer', {
				body: each,
				unique: this.#xml ? true : key
			});
	}

	/** A number that counts a list beside it. */
	#ofCounts(values: Near[]): void {
		for (const { path, value } of values) {
			if (typeof value !== 'number' || !COUNTS.test(String(path.at(-1) ?? ''))) continue;
			const beside = getIn(this.#now.data, path.slice(0, -1));
			for (const [name, list] of Object.entries(isObject(beside) ? beside : {})) {
				if (!Array.isArray(list) || list.length !== value) continue;
				const selector = jsonPathOf([...path.slice(0, -1), name]);
				if (!this.#looksAt(selector, 'count'))
					this.#suggest(`${selector} has as many items as ${jsonPathOf(path)} says`, 'the two agree', {
						body: selector,
						count: `{$response.body.${path.join('.')}}`
					});
			}
		}
	}

	/** What was the same each time. */
	#ofConstants(values: Near[]): void {
		for (const { path, value } of values) {
			const selector = this.#selectorOf(path);
			if (typeof value === 'object' || value === '' || this.#looksAt(selector)) continue;
			if (this.#alike.every((one) => same(getIn(one.data, path), value)))
				this.#suggest(`${selector} equals ${shortened(String(value), 40)}`, this.#seen, {
					body: selector,
					equals: value
				});
		}
	}
}

/**
 * Checks that an answer suggests, the likeliest first. Nothing that is checked already is among them.
 * @param earlier answers of the same call, the newest first: what held in all of them is suggested with more right
 * @param file where a schema would be written
 */
export const suggestChecks = (
	now: Answered,
	earlier: Answered[],
	checks: JsonObject[],
	file: string,
	schema: () => JsonObject
): Suggestion[] => new Suggester(now, earlier, checks).all(file, schema);
