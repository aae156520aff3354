import type { Json, JsonObject } from '../model/json.ts';
import { ANY_KEY, EACH_KEY, ENVELOPE, TEXT_KEY, TYPE_KEY, XSI, type SoapValues } from './envelope.ts';
import {
	elementsWithin,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type SoapModel,
	type TypeModel
} from './model.ts';
import { hasAny, repeatingGroup } from './particles.ts';
import { SOAP_ENCODING } from './schema/index.ts';
import { elementsOf, nameOf, parseXml, splitName, standAlone, type XmlElement } from './tree.ts';
import type { SoapVersion } from './wsdl/index.ts';

/** What an envelope holds, as values of its form. */
export interface ReadEnvelope extends SoapValues {
	version: SoapVersion;
	/** What values cannot hold, in words; writing the values anew would lose it. */
	beyond: string[];
}

const MARK = 0xe000;
const DIGIT = 0xe010;
const DIGITS = 200;

/** XML text in which expressions are letters that no one uses, as long as they were, and the way back. */
export function hideExpressions(text: string, expressions: { start: number; end: number }[]) {
	let out = '';
	let at = 0;
	expressions.forEach(({ start, end }, index) => {
		const digits: number[] = [MARK];
		for (let rest = index, n = 0; n < 3; n++, rest = Math.floor(rest / DIGITS)) digits.push(DIGIT + (rest % DIGITS));
		out +=
			text.slice(at, start) +
			String.fromCharCode(...digits) +
			'\uE001'.repeat(Math.max(0, end - start - digits.length));
		at = end;
	});
	const show = (hidden: string): string =>
		hidden.replace(/\uE000([\uE010-\uE0D7]{3})\uE001*/g, (_, code: string) => {
			const index = [...code].reduceRight((sum, digit) => sum * DIGITS + digit.charCodeAt(0) - DIGIT, 0);
			const found = expressions[index];
			return found ? text.slice(found.start, found.end) : '';
		});
	return { hidden: out + text.slice(at), show };
}

/**
 * Reads the values of an operation out of an envelope.
 * @param show turns what was read back into what was written, where expressions were hidden
 * @throws HeronError xml.wrong; Error in words when it is no envelope
 */
export function readEnvelope(
	model: SoapModel,
	text: string,
	show: (text: string) => string = (same) => same
): ReadEnvelope {
	const root = parseXml(text);
	const version = (Object.keys(ENVELOPE) as SoapVersion[]).find((one) => ENVELOPE[one] === root.namespace);
	if (root.local !== 'Envelope' || !version) throw new Error('its root is no Envelope of SOAP 1.1 or 1.2');
	const inside = (local: string) =>
		root.children.find(
			(one): one is XmlElement => typeof one !== 'string' && one.local === local && one.namespace === root.namespace
		);
	const body = inside('Body');
	if (!body) throw new Error('it has no Body');
	const reader = new ValueReader(model, text, show);
	const values = reader.body(elementsOf(body));
	const header = inside('Header');
	const headers = header ? reader.headers(elementsOf(header)) : {};
	return {
		values,
		...(Object.keys(headers).length > 0 ? { headers } : {}),
		version,
		beyond: reader.beyond
	};
}

/** An element that was read: under which key, and the how manieth of those that may stand there; -1 for what may be any. */
interface ReadElement {
	key: string;
	at: number;
	value: Json;
}

/** Reads elements as values of an operation's form. */
class ValueReader {
	/** What values cannot hold, in words. */
	readonly beyond: string[] = [];
	readonly #model: SoapModel;
	readonly #source: string;
	readonly #show: (text: string) => string;

	constructor(model: SoapModel, source: string, show: (text: string) => string) {
		this.#model = model;
		this.#source = source;
		this.#show = show;
		if (/<!--/.test(source)) this.beyond.push('a comment');
	}

	/** A message of one part is its value, one of several an object of them. */
	body(children: XmlElement[]): Json {
		const declared = this.#model.input.body;
		const [only] = declared;
		if (declared.length !== 1 || !only)
			return this.#named(children, declared, ({ local }) => `the element ${local} in the body`);
		const child = children.find((one) => isSame(one, only));
		const value = child ? this.#value(child, only.type) : {};
		if (!child) this.beyond.push(`no ${only.local} in the body`);
		for (const other of children) if (other !== child) this.beyond.push(`the element ${other.local} in the body`);
		return value;
	}

	headers(children: XmlElement[]): JsonObject {
		return this.#named(children, this.#model.input.headers, ({ local }) => `the header ${local}`);
	}

	#named(children: XmlElement[], declared: ElementModel[], words: (child: XmlElement) => string): JsonObject {
		const out: JsonObject = {};
		for (const child of children) {
			const one = declared.find((each) => isSame(child, each));
			if (one) out[one.local] = this.#value(child, one.type);
			else this.beyond.push(words(child));
		}
		return out;
	}

	#text(element: XmlElement): string {
		return this.#show(element.children.filter((one) => typeof one === 'string').join(''));
	}

	/** The type that an element says it has, where it may have another. */
	#typeOf(element: XmlElement, key: string): { key: string; other?: string } {
		const said = element.attributes.find((one) => one.local === 'type' && one.namespace === XSI)?.value;
		const type = this.#model.types[key];
		if (said === undefined || type?.kind !== 'complex' || !type.derived) return { key };
		const local = said.replace(/^.*:/, '');
		const other = type.derived.find((one) => splitName(one).local === local);
		return other ? { key: other, other: local } : { key };
	}

	#value(element: XmlElement, declared: string): Json {
		if (element.attributes.some((one) => one.local === 'nil' && one.namespace === XSI && /^(true|1)$/.test(one.value)))
			return null;
		const { key, other } = this.#typeOf(element, declared);
		const type = this.#model.types[key];
		const children = elementsOf(element);
		const text = this.#text(element);
		if (!type || type.kind === 'simple') {
			if (children.length > 0) this.beyond.push(`elements in ${element.local}`);
			return text;
		}
		const { arrayOf } = type;
		if (arrayOf && (children.length > 0 || !text.trim())) return children.map((one) => this.#value(one, arrayOf));
		const out: JsonObject = {
			...(other === undefined ? {} : { [TYPE_KEY]: other }),
			...this.#attributes(element, type)
		};
		if (type.text) return { ...out, [TEXT_KEY]: text };
		// one expression in the place of all elements stands for them
		if (children.length === 0 && /^\s*\{\$[\s\S]*\}\s*$/.test(text) && Object.keys(out).length === 0)
			return text.trim();
		if (text.trim()) out[TEXT_KEY] = text.trim();
		this.#addElements(out, this.#elements(element, type), type);
		return out;
	}

	#attributes(element: XmlElement, type: ComplexModel): JsonObject {
		const out: JsonObject = {};
		for (const { local, namespace, value } of element.attributes) {
			if (namespace === XSI || namespace === SOAP_ENCODING) continue;
			const plain = type.attributes.some((use) => use.local === local && use.namespace === namespace);
			out[`@${plain ? local : nameOf(namespace, local)}`] = this.#show(value);
		}
		return out;
	}

	#elements(element: XmlElement, type: ComplexModel): ReadElement[] {
		const known = elementsWithin(type.content);
		const out: ReadElement[] = [];
		for (const child of elementsOf(element)) {
			const at = known.findIndex((one) => isSame(child, one));
			if (at >= 0) out.push({ key: valueKey(known[at]!, type), at, value: this.#value(child, known[at]!.type) });
			else if (hasAny(type.content))
				out.push({ key: ANY_KEY, at: -1, value: this.#show(standAlone(child, this.#source)) });
			else this.beyond.push(`the element ${child.local} in ${element.local}`);
		}
		return out;
	}

	#addElements(out: JsonObject, read: ReadElement[], type: ComplexModel): void {
		const sorted = read.every(({ at }, index) => index === 0 || at < 0 || at >= read[index - 1]!.at);
		const repeats = type.content ? repeatingGroup(type.content) : undefined;
		if (!sorted && repeats) {
			out[EACH_KEY] = passes(read, repeats.kind === 'choice');
			return;
		}
		const known = elementsWithin(type.content);
		for (const { key, value } of read)
			put(out, key, value, this.#model.types[known.find((one) => valueKey(one, type) === key)?.type ?? '']);
	}
}

const isSame = (element: XmlElement, { local, namespace }: ElementModel): boolean =>
	element.local === local && element.namespace === namespace;

function put(into: JsonObject, key: string, value: Json, type: TypeModel | undefined): void {
	if (!Object.hasOwn(into, key)) into[key] = value;
	else {
		const before = into[key]!;
		// a list that is one value begins a list of such
		const single = type?.kind === 'complex' && type.arrayOf !== undefined;
		if (Array.isArray(before) && !(single && !before.every((one) => Array.isArray(one)))) before.push(value);
		else into[key] = [before, value];
	}
}

function passes(order: ReadElement[], choice: boolean): JsonObject[] {
	const out: JsonObject[] = [];
	let before = Infinity;
	for (const { key, at, value } of order) {
		if (choice || at < before || (out.at(-1) && Object.hasOwn(out.at(-1)!, key))) out.push({});
		out.at(-1)![key] = value;
		before = at;
	}
	return out;
}
