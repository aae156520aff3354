import type { Json, JsonObject } from '../model/json.ts';
import { ANY_KEY, EACH_KEY, ENVELOPE, TEXT_KEY, TYPE_KEY, XSI, type SoapValues } from './envelope.ts';
import { elementsWithin, valueKey, type SoapModel, type TypeModel } from './model.ts';
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
	const source = text;
	const root = parseXml(text);
	const found = (Object.keys(ENVELOPE) as SoapVersion[]).find((version) => ENVELOPE[version] === root.namespace);
	if (root.local !== 'Envelope' || !found) throw new Error('its root is no Envelope of SOAP 1.1 or 1.2');
	const inside = (local: string) =>
		root.children.find(
			(one): one is XmlElement => typeof one !== 'string' && one.local === local && one.namespace === root.namespace
		);
	const body = inside('Body');
	if (!body) throw new Error('it has no Body');
	const beyond: string[] = [];
	if (/<!--/.test(text)) beyond.push('a comment');
	const { types } = model;
	const ownText = (element: XmlElement) => show(element.children.filter((one) => typeof one === 'string').join(''));

	const typeFor = (element: XmlElement, key: string): { key: string; other?: string } => {
		const said = element.attributes.find((one) => one.local === 'type' && one.namespace === XSI)?.value;
		const type = types[key];
		if (said === undefined || type?.kind !== 'complex' || !type.derived) return { key };
		const local = said.replace(/^.*:/, '');
		const other = type.derived.find((one) => splitName(one).local === local);
		return other ? { key: other, other: local } : { key };
	};

	function value(element: XmlElement, declared: string): Json {
		if (element.attributes.some((one) => one.local === 'nil' && one.namespace === XSI && /^(true|1)$/.test(one.value)))
			return null;
		const { key, other } = typeFor(element, declared);
		const type = types[key];
		const children = elementsOf(element);
		if (!type || type.kind === 'simple') {
			if (children.length > 0) beyond.push(`elements in ${element.local}`);
			return ownText(element);
		}
		if (type.arrayOf && (children.length > 0 || !ownText(element).trim()))
			return children.map((one) => value(one, type.arrayOf!));
		const out: JsonObject = {};
		if (other !== undefined) out[TYPE_KEY] = other;
		for (const attribute of element.attributes) {
			if (attribute.namespace === XSI || attribute.namespace === SOAP_ENCODING) continue;
			const plain = type.attributes.some(
				(use) => use.local === attribute.local && use.namespace === attribute.namespace
			);
			out[`@${plain ? attribute.local : nameOf(attribute.namespace, attribute.local)}`] = show(attribute.value);
		}
		const text = ownText(element);
		if (type.text) {
			out[TEXT_KEY] = text;
			return out;
		}
		// one expression in the place of all elements stands for them
		if (children.length === 0 && /^\s*\{\$[\s\S]*\}\s*$/.test(text) && Object.keys(out).length === 0)
			return text.trim();
		if (text.trim()) out[TEXT_KEY] = text.trim();
		const known = elementsWithin(type.content);
		const order: { key: string; at: number; value: Json }[] = [];
		for (const child of children) {
			const at = known.findIndex((one) => one.local === child.local && one.namespace === child.namespace);
			if (at >= 0) order.push({ key: valueKey(known[at]!, type), at, value: value(child, known[at]!.type) });
			else if (hasAny(type.content)) order.push({ key: ANY_KEY, at: -1, value: show(standAlone(child, source)) });
			else beyond.push(`the element ${child.local} in ${element.local}`);
		}
		const sorted = order.every(({ at }, index) => index === 0 || at < 0 || at >= order[index - 1]!.at);
		const repeats = type.content ? repeatingGroup(type.content) : undefined;
		if (!sorted && repeats) out[EACH_KEY] = passes(order, repeats.kind === 'choice');
		else
			for (const { key: name, value: own } of order)
				put(out, name, own, types[known.find((one) => valueKey(one, type) === name)?.type ?? '']);
		return out;
	}

	const { body: declared } = model.input;
	const inBody = elementsOf(body);
	let values: Json = {};
	if (declared.length === 1) {
		const [one] = declared;
		const child = inBody.find(({ local, namespace }) => local === one!.local && namespace === one!.namespace);
		if (child) values = value(child, one!.type);
		else beyond.push(`no ${one!.local} in the body`);
		for (const other of inBody) if (other !== child) beyond.push(`the element ${other.local} in the body`);
	} else
		for (const child of inBody) {
			const one = declared.find(({ local, namespace }) => local === child.local && namespace === child.namespace);
			if (one) (values as JsonObject)[one.local] = value(child, one.type);
			else beyond.push(`the element ${child.local} in the body`);
		}
	const headers: JsonObject = {};
	for (const child of elementsOf(inside('Header') ?? { ...body, children: [] })) {
		const one = model.input.headers.find(
			({ local, namespace }) => local === child.local && namespace === child.namespace
		);
		if (one) headers[one.local] = value(child, one.type);
		else beyond.push(`the header ${child.local}`);
	}
	return { values, ...(Object.keys(headers).length > 0 ? { headers } : {}), version: found, beyond };
}

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

function passes(order: { key: string; at: number; value: Json }[], choice: boolean): JsonObject[] {
	const out: JsonObject[] = [];
	let before = Infinity;
	for (const { key, at, value } of order) {
		if (choice || at < before || (out.at(-1) && Object.hasOwn(out.at(-1)!, key))) out.push({});
		out.at(-1)![key] = value;
		before = at;
	}
	return out;
}
