import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { lookUp } from '../model/lookup.ts';
import { isJsonType, isXmlType, type HeaderList } from '../model/reply.ts';
import { utf8 } from '../values/index.ts';
import { answerFor, answersOf, type Answer } from './contract.ts';
import { inside, items, members, type Node } from './document.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { permits } from './permits.ts';
import { sampleOf } from './sample.ts';
import { asJson } from './schema-parts.ts';
import { lazySchema } from './schema.ts';
import { writeXmlBody } from './xml-body.ts';

/** An answer that is made of what a definition says. */
export interface SampleReply {
	status: number;
	headers: HeaderList;
	body: Uint8Array;
	/** What could not be made, in words. */
	notes: string[];
}

const EMPTY = new Uint8Array();

/** A status for a key of `responses`: 200, 2XX, default. */
const statusOf = (key: string): number =>
	/^\d{3}$/.test(key) ? Number(key) : /^\dXX$/i.test(key) ? Number(key[0]) * 100 : 200;

/** The answer when all is well: a code, a range, the default, and only then what tells of a failure. */
const usual = (answers: Answer[]): Answer | undefined =>
	// what is only on the way to an answer is none
	[/^2\d\d$/, /^2xx$/i, /^default$/, /^3/, /^[^1]/]
		.map((pattern) => answers.find(({ key }) => pattern.test(key)))
		.find(Boolean);

/** How much a caller wants a media type (RFC 9110 section 12.5.1); 0 for not at all. */
function wanted(accept: string, type: string): number {
	if (!accept.trim()) return 1;
	let best = 0;
	let closest = -1;
	for (const part of accept.split(',')) {
		const [range = '', ...settings] = part.trim().toLowerCase().split(';');
		const plain = range.trim();
		const name = type.split(';')[0]!.trim().toLowerCase();
		const close = plain === name ? 2 : plain === `${name.split('/')[0]}/*` ? 1 : plain === '*/*' ? 0 : -1;
		if (close <= closest) continue;
		closest = close;
		best = Number(/^\s*q=([\d.]+)/.exec(settings.find((one) => /^\s*q=/.test(one)) ?? '')?.[1] ?? 1);
	}
	return best;
}

/** The examples of a media type that stand beside its schema, the first one first. */
function examplesIn(operation: OpenapiOperation, media: Node<JsonObject>): Json[] {
	const out: Json[] = media.value.example === undefined ? [] : [media.value.example];
	for (const [, given] of members(inside(media, 'examples')))
		try {
			const { value } = operation.document.follow(given);
			if (isObject(value) && value.value !== undefined) out.push(value.value as Json);
		} catch {
			// an example that leads nowhere is none
		}
	return out;
}

interface Offered {
	type: string;
	schema?: JsonObject;
	examples: Json[];
}

/** The media types of an answer, with what is known of each. */
function offeredBy(operation: OpenapiOperation, { node }: Answer): Offered[] {
	const { document } = operation;
	const made = (schema: Node | undefined): JsonObject | undefined =>
		schema?.value === undefined ? undefined : lazySchema(document, schema, 'writeOnly');
	if (document.version === '2.0') {
		const schema = inside(node, 'schema');
		const examples = inside(node, 'examples');
		if (schema.value === undefined && examples.value === undefined) return [];
		const own = inside(operation.node, 'produces');
		const types = items(own.value === undefined ? inside(document.root, 'produces') : own).map(({ value }) =>
			String(value)
		);
		const own2 = made(schema as Node);
		return (types.length > 0 ? types : ['application/json']).map((type) => {
			const example = isObject(examples.value) ? (examples.value as JsonObject)[type] : undefined;
			return { type, ...(own2 ? { schema: own2 } : {}), examples: example === undefined ? [] : [example] };
		});
	}
	return members(inside(node, 'content')).flatMap(([type, given]): Offered[] => {
		const media = document.follow(given);
		if (!isObject(media.value)) return [{ type, examples: [] }];
		const own = made(inside(media as Node<JsonObject>, 'schema') as Node);
		return [{ type, ...(own ? { schema: own } : {}), examples: examplesIn(operation, media as Node<JsonObject>) }];
	});
}

/** The first example that the schema allows, else a value that is made of the schema. */
function valueOf({ type, schema, examples }: Offered): Json | undefined {
	const meant = isJsonType(type) ? examples.flatMap((one) => [asJson(one), one]) : examples;
	if (!schema) return meant.find((one) => one !== '') ?? (isJsonType(type) ? {} : isXmlType(type) ? '<text/>' : 'text');
	return meant.find((one) => permits(schema, schema, one)) ?? sampleOf(schema, { fill: 'full' }) ?? sampleOf(schema);
}

/** A media range as one type of it. */
const concrete = (type: string): string =>
	/\*/.test(type) ? (lookUp(ONE_OF, type.split('/')[0]!.trim().toLowerCase()) ?? 'application/json') : type;
const ONE_OF: Record<string, string> = {
	...{ text: 'text/plain', image: 'image/png', audio: 'audio/mpeg', video: 'video/mp4', font: 'font/woff2' }
};

/**
 * An answer of an operation with an example of the document, or made by its schema.
 * @param ask the status that is wanted, and the Accept field
 */
export function sampleReply(operation: OpenapiOperation, ask: { status?: number; accept?: string } = {}): SampleReply {
	const answers = answersOf(operation);
	const answer = ask.status === undefined ? usual(answers) : answerFor(answers, ask.status);
	const notes: string[] = [];
	if (!answer) {
		notes.push(`${nameOf(operation)} defines no answer${ask.status === undefined ? '' : ` ${ask.status}`}`);
		return { status: ask.status ?? 204, headers: [], body: EMPTY, notes };
	}
	const status = ask.status ?? statusOf(answer.key);
	const headers = headersOf(operation, answer, notes);
	const offered = offeredBy(operation, answer);
	const [best] = offered
		.map((one, at) => ({ one, weight: wanted(ask.accept ?? '', one.type) + (isJsonType(one.type) ? 0.001 : 0), at }))
		.sort((a, b) => b.weight - a.weight || a.at - b.at);
	if (!best || operation.method === 'HEAD' || status === 204 || status === 304)
		return { status, headers, body: EMPTY, notes };
	const type = concrete(best.one.type);
	const written = isXmlType(type)
		? best.one.examples.find((one) => typeof one === 'string' && /^\s*</.test(one))
		: undefined;
	const value = written ?? valueOf({ ...best.one, type });
	if (value === undefined) {
		notes.push(`no body of ${type} can be made`);
		return { status, headers: [...headers, ['Content-Type', type]], body: EMPTY, notes };
	}
	const text = textOf(value, type.split(';')[0]!.trim(), best.one.schema);
	return { status, headers: [...headers, ['Content-Type', type]], body: utf8(text), notes };
}

/** A value as the text of a body. */
function textOf(value: Json, type: string, schema: JsonObject | undefined): string {
	if (isJsonType(type)) return writeJson(value);
	// an example may be the text itself
	if (isXmlType(type) && !(typeof value === 'string' && /^\s*</.test(value))) return writeXmlBody(value, schema ?? {});
	return typeof value === 'string' ? value : writeJson(value);
}

function headersOf(operation: OpenapiOperation, { node }: Answer, notes: string[]): HeaderList {
	const { document } = operation;
	return members(inside(node, 'headers')).flatMap(([name, given]): HeaderList => {
		if (/^content-(type|length|encoding)$|^transfer-encoding$|^connection$/i.test(name)) return [];
		const header = document.follow(given);
		if (!isObject(header.value)) return [];
		const own = header as Node<JsonObject>;
		const [[type, media] = []] = members(inside(own, 'content'));
		const schema = document.version === '2.0' ? own : inside((media ?? own) as Node<JsonObject>, 'schema');
		const example = own.value.example as Json | undefined;
		const made = schema.value === undefined ? {} : lazySchema(document, schema as Node, 'writeOnly');
		const value = example !== undefined && permits(made, made, example) ? example : sampleOf(made);
		if (value === undefined) {
			if (own.value.required === true) notes.push(`no value can be made for the header ${name}`);
			return [];
		}
		const text =
			type && isJsonType(type)
				? writeJson(value)
				: Array.isArray(value)
					? value.map((one) => (typeof one === 'string' ? one : writeJson(one))).join(',')
					: isObject(value)
						? Object.entries(value)
								.map(([key, one]) => (own.value.explode === true ? `${key}=${String(one)}` : `${key},${String(one)}`))
								.join(',')
						: String(value);
		return [[name, text.replace(/[\r\n\0]/g, ' ')]];
	});
}
