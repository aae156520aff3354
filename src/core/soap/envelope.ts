import { nearest } from '../messages.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import {
	elementsWithin,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel,
	type TypeModel
} from './model.ts';
import { SOAP_ENCODING, UNBOUNDED, XSD } from './schema.ts';
import { simpleProblem } from './simple.ts';
import { escapeAttribute, escapeText, nameOf, parseXml, splitName, standAlone, type XmlElement } from './tree.ts';
import type { SoapVersion } from './wsdl.ts';

/** SOAP 1.1 section 3, SOAP 1.2 part 1 section 5. */
export const ENVELOPE: Record<SoapVersion, string> = {
	'1.1': 'http://schemas.xmlsoap.org/soap/envelope/',
	'1.2': 'http://www.w3.org/2003/05/soap-envelope'
};
export const XSI = 'http://www.w3.org/2001/XMLSchema-instance';
const XML_NAMESPACE = 'http://www.w3.org/XML/1998/namespace';

/** Values of a message: what its body holds, and entries of its header by name. */
export interface SoapValues {
	/** The value of the body's one element; an object by name when there are several. */
	values: Json;
	headers?: JsonObject;
}

export interface ValueProblem {
	/** Keys and indexes from the values' root. */
	path: (string | number)[];
	message: string;
	/** It cannot be written at all: nothing of that name is known. */
	unknown?: true;
}

export interface WrittenEnvelope {
	text: string;
	problems: ValueProblem[];
}

/** Keys of values that are not elements. */
export const TEXT_KEY = '#text';
export const ANY_KEY = '#any';
/** A list of objects, one for each pass of a group that repeats, where the order across names matters. */
export const EACH_KEY = '#each';
export const TYPE_KEY = '@xsi:type';

export interface WriteOptions {
	/** Escapes a text; expressions may be left alone by it. */
	escape?: (text: string) => string;
	/** Whether a text is still to be computed, so that nothing can be said of it. */
	open?: (text: string) => boolean;
	/** What stands for the content of an element that holds bytes as Base64: XOP has them travel beside the envelope. */
	binary?: (base64: string) => string;
}

const isOnlyOne = (particle: { max: number }, type: TypeModel | undefined): boolean =>
	particle.max <= 1 &&
	((type?.kind === 'complex' && type.arrayOf !== undefined) || (type?.kind === 'simple' && type.variety === 'list'));

/**
 * Writes the envelope of an operation (SOAP 1.1 section 4, SOAP 1.2 part 1 section 5). Elements stand in the order of the
 * schema whatever the order of the values; what does not fit is told, and written all the same where it can be.
 */
export function writeEnvelope(
	model: SoapModel,
	{ values, headers }: SoapValues,
	options: WriteOptions = {}
): WrittenEnvelope {
	const { version, use } = model.operation;
	const { types } = model;
	const escape = options.escape ?? escapeText;
	const inAttribute = (text: string) => escape(text).replace(/"/g, '&quot;').replace(/\n/g, '&#10;');
	const open = options.open ?? (() => false);
	const problems: ValueProblem[] = [];
	const encoded = use === 'encoded';
	const prefixes = new Map<string, string>([[ENVELOPE[version], 'env']]);
	const prefixOf = (namespace: string): string => {
		const known = prefixes.get(namespace);
		if (known !== undefined) return known;
		const usual =
			namespace === XSI
				? 'xsi'
				: namespace === XSD
					? 'xsd'
					: namespace === SOAP_ENCODING
						? 'enc'
						: namespace === XML_NAMESPACE
							? 'xml'
							: '';
		const own = [...prefixes.values()].filter((one) => /^m\d*$/.test(one)).length;
		const prefix = usual || (own === 0 ? 'm' : `m${own + 1}`);
		prefixes.set(namespace, prefix);
		return prefix;
	};
	const qualified = (namespace: string, local: string) => (namespace ? `${prefixOf(namespace)}:${local}` : local);
	const lines: string[] = [];
	const told = (path: ValueProblem['path'], message: string, unknown?: true) =>
		void problems.push({ path, message, ...(unknown ? { unknown } : {}) });

	const textOf = (value: Json): string =>
		Array.isArray(value) ? value.map(textOf).join(' ') : isObject(value) ? JSON.stringify(value) : String(value ?? '');
	const checkText = (type: TypeModel | undefined, text: string, path: ValueProblem['path']) => {
		const wrong = type?.kind === 'simple' && !open(text) ? simpleProblem(type, text) : undefined;
		if (wrong) told(path, wrong);
	};

	/** The type that a value asks for by xsi:type, or the declared one. */
	const chosenType = (key: string, value: Json, path: ValueProblem['path']): { key: string; other: boolean } => {
		const type = types[key];
		const wanted = isObject(value) ? value[TYPE_KEY] : undefined;
		if (wanted === undefined) {
			if (type?.kind === 'complex' && type.abstract)
				told([...path, TYPE_KEY], `it is abstract: say which type it has by ${TYPE_KEY}`);
			return { key, other: false };
		}
		const found = (type?.kind === 'complex' ? (type.derived ?? [key]) : [key]).find(
			(one) => one === wanted || splitName(one).local === String(wanted).replace(/^.*:/, '')
		);
		if (!found) {
			const known = (type?.kind === 'complex' ? (type.derived ?? []) : []).map((one) => splitName(one).local);
			told(
				[...path, TYPE_KEY],
				`there is no type ${textOf(wanted as Json)} here${nearest(textOf(wanted as Json), known)}`
			);
		}
		return { key: found ?? key, other: found !== undefined };
	};

	function element(
		one: ElementModel,
		value: Json,
		indent: string,
		path: ValueProblem['path'],
		arrayItem = false
	): void {
		const name = qualified(one.namespace, one.local);
		const { key, other } = chosenType(one.type, value, path);
		const type = types[key];
		const attributes: string[] = [];
		if (other || (encoded && type?.name && !(type.kind === 'complex' && type.arrayOf))) {
			const { namespace, local } = splitName(type?.name || key);
			if (other || encoded) attributes.push(`${qualified(XSI, 'type')}="${qualified(namespace, local)}"`);
		}
		void arrayItem;
		if (value === null) {
			if (!one.nillable) told(path, 'it cannot be nil');
			lines.push(`${indent}<${name} ${qualified(XSI, 'nil')}="true"/>`);
			return;
		}
		if (!type || type.kind === 'simple') {
			const text = isObject(value) ? textOf(value[TEXT_KEY] ?? '') : textOf(value);
			if (isObject(value)) {
				for (const at of Object.keys(value))
					if (at !== TEXT_KEY && at !== TYPE_KEY) told([...path, at], `${one.local} holds text only`, true);
			}
			if (one.fixed !== undefined && !open(text) && text !== one.fixed) told(path, `it is fixed to ${one.fixed}`);
			checkText(type, text, path);
			const apart = options.binary && text && type?.kind === 'simple' && type.builtin === 'base64Binary';
			const inner = apart ? options.binary!(text) : escape(text);
			lines.push(`${indent}<${[name, ...attributes].join(' ')}>${inner}</${name}>`);
			return;
		}
		complex(one, name, type, value, indent, path, attributes);
	}

	function complex(
		one: ElementModel,
		name: string,
		type: ComplexModel,
		value: Json,
		indent: string,
		path: ValueProblem['path'],
		attributes: string[]
	): void {
		if (type.arrayOf && Array.isArray(value)) {
			const item = types[type.arrayOf];
			const { namespace, local } = splitName(item?.name || nameOf(XSD, 'anyType'));
			const [named] = elementsWithin(type.content);
			const within: ElementModel = {
				local: named?.local ?? 'item',
				namespace: named?.namespace ?? '',
				type: type.arrayOf,
				nillable: true
			};
			// an array says of what it is in encoded messages alone (SOAP 1.1 section 5.4.2)
			if (encoded)
				attributes.push(
					`${qualified(XSI, 'type')}="${qualified(SOAP_ENCODING, 'Array')}"`,
					`${qualified(SOAP_ENCODING, 'arrayType')}="${qualified(namespace, local)}[${value.length}]"`
				);
			lines.push(`${indent}<${[name, ...attributes].join(' ')}>`);
			value.forEach((entry, index) => element(within, entry, `${indent}  `, [...path, index], true));
			lines.push(`${indent}</${name}>`);
			return;
		}
		// a whole value that is still to be computed, or text where elements are wanted
		const given: JsonObject = isObject(value) ? (value as JsonObject) : { [TEXT_KEY]: value };
		for (const use of type.attributes) {
			const key = [`@${use.local}`, `@${nameOf(use.namespace, use.local)}`].find((at) => Object.hasOwn(given, at));
			if (key === undefined) {
				if (use.required) told([...path, `@${use.local}`], `the attribute ${use.local} is missing`);
				continue;
			}
			const text = textOf(given[key]!);
			if (use.fixed !== undefined && !open(text) && text !== use.fixed)
				told([...path, key], `it is fixed to ${use.fixed}`);
			checkText(use.type, text, [...path, key]);
			attributes.push(`${qualified(use.namespace, use.local)}="${inAttribute(text)}"`);
		}
		for (const [key, own] of Object.entries(given)) {
			if (!key.startsWith('@') || key === TYPE_KEY) continue;
			const { namespace, local } = splitName(key.slice(1));
			if (type.attributes.some((use) => use.local === local)) continue;
			if (!type.anyAttribute) {
				const known = type.attributes.map((use) => `@${use.local}`);
				told([...path, key], `${one.local} has no attribute ${local}${nearest(key, known)}`, true);
			} else attributes.push(`${qualified(namespace, local)}="${inAttribute(textOf(own))}"`);
		}
		const opening = [name, ...attributes].join(' ');
		const text = given[TEXT_KEY] === undefined ? '' : textOf(given[TEXT_KEY]);
		if (type.text) {
			if (Object.hasOwn(given, TEXT_KEY)) checkText(type.text, text, path);
			else told([...path, TEXT_KEY], 'its text is missing');
			for (const key of Object.keys(given))
				if (!key.startsWith('@') && key !== TEXT_KEY) told([...path, key], `${one.local} holds text only`, true);
			lines.push(`${indent}<${opening}>${escape(text)}</${name}>`);
			return;
		}
		const at = lines.length;
		lines.push('');
		if (text) {
			if (!type.mixed && !open(text)) told(path, `${one.local} holds elements, no text`);
			lines.push(`${indent}  ${escape(text)}`);
		}
		const whole = text !== '' && open(text);
		if (!whole) content(type, given, `${indent}  `, path);
		if (lines.length === at + 1) lines[at] = `${indent}<${opening}/>`;
		else if (lines.length === at + 2 && text) lines.splice(at, 2, `${indent}<${opening}>${escape(text)}</${name}>`);
		else {
			lines[at] = `${indent}<${opening}>`;
			lines.push(`${indent}</${name}>`);
		}
	}

	/** Values that wait for their element, by key. */
	type Waiting = Map<string, { values: Json[]; taken: number; list: boolean }>;

	function content(type: ComplexModel, given: JsonObject, indent: string, path: ValueProblem['path']): void {
		const known = elementsWithin(type.content);
		const keys = new Map(known.map((one) => [valueKey(one, type), one]));
		const holdsAny = hasAny(type.content);
		const waitingOf = (from: JsonObject, at: ValueProblem['path']): Waiting => {
			const waiting: Waiting = new Map();
			for (const [key, value] of Object.entries(from)) {
				if (key.startsWith('@') || key === TEXT_KEY || key === EACH_KEY) continue;
				const one = keys.get(key) ?? (key === ANY_KEY && holdsAny ? undefined : null);
				if (one === null) {
					told([...at, key], `there is no element ${splitName(key).local} here${nearest(key, [...keys.keys()])}`, true);
					continue;
				}
				const single = one && Array.isArray(value) && isOnlyOne(maxOf(type.content, one), types[one.type]);
				const list = Array.isArray(value) && !single;
				waiting.set(key, { values: list ? value : [value as Json], taken: 0, list });
			}
			return waiting;
		};
		const left = (particle: ParticleModel, waiting: Waiting): boolean =>
			particle.kind === 'any'
				? hasLeft(waiting.get(ANY_KEY))
				: elementsWithin(particle).some((one) => hasLeft(waiting.get(valueKey(one, type)))) ||
					(hasAny(particle) && hasLeft(waiting.get(ANY_KEY)));
		/** Whether all that it must hold is there. */
		const complete = (particle: ParticleModel, waiting: Waiting): boolean => {
			if (particle.min === 0 || particle.kind === 'any') return true;
			if (particle.kind === 'element') return left(particle, waiting);
			const whole = (item: ParticleModel) => complete(item, waiting);
			return particle.kind === 'choice' ? particle.items.some(whole) : particle.items.every(whole);
		};
		const write = (particle: ParticleModel, waiting: Waiting, at: ValueProblem['path'], quiet: boolean): void => {
			if (particle.kind === 'any') {
				const entry = waiting.get(ANY_KEY);
				for (let n = 0; n < particle.max && hasLeft(entry); n++)
					for (const line of textOf(entry!.values[entry!.taken++]!).split('\n'))
						lines.push(indent + line.replace(/^\s+$/, ''));
				return;
			}
			if (particle.kind === 'element') {
				let count = 0;
				for (const one of particle.elements) {
					const key = valueKey(one, type);
					const entry = waiting.get(key);
					while (count < particle.max && hasLeft(entry)) {
						const index = entry!.taken++;
						element(one, entry!.values[index]!, indent, entry!.list ? [...at, key, index] : [...at, key]);
						count++;
					}
				}
				if (count < particle.min && !quiet) {
					const [first] = particle.elements;
					const named = particle.elements.map(({ local }) => local).join(' or ');
					const wanted = count === 0 ? `${named} is missing` : `${named} is wanted at least ${particle.min} times`;
					told([...at, valueKey(first!, type)], wanted);
				}
				return;
			}
			for (let pass = 0; pass < particle.max; pass++) {
				if (pass >= particle.min && !left(particle, waiting)) break;
				if (pass > 0 && !left(particle, waiting)) break;
				if (particle.kind === 'choice') {
					const possible = particle.items.filter((item) => left(item, waiting));
					const chosen = possible.find((item) => complete(item, waiting)) ?? possible[0];
					if (chosen) write(chosen, waiting, at, quiet);
					else if (!quiet && !particle.items.some((item) => fitsEmpty(item)))
						told(
							at,
							`one of ${elementsWithin(particle)
								.map(({ local }) => local)
								.join(', ')} is wanted`
						);
					if (!chosen) break;
				} else for (const item of particle.items) write(item, waiting, at, quiet);
			}
		};
		const each = given[EACH_KEY];
		const waiting = waitingOf(given, path);
		if (Array.isArray(each)) {
			const repeating = type.content && repeatingGroup(type.content);
			each.forEach((entry, index) => {
				const at = [...path, EACH_KEY, index];
				if (!isObject(entry)) return told(at, 'an object with the elements of one pass is wanted', true);
				const own = waitingOf(entry as JsonObject, at);
				write(repeating ? { ...repeating, min: 1, max: 1 } : type.content!, own, at, false);
				leftovers(own, at);
			});
			return;
		}
		if (type.content) write(type.content, waiting, path, false);
		leftovers(waiting, path);
	}
	const leftovers = (waiting: Waiting, path: ValueProblem['path']): void => {
		for (const [key, { values, taken }] of waiting)
			if (taken < values.length) {
				const { local } = splitName(key);
				told(
					[...path, key],
					taken === 0
						? `${local} does not go with the others here`
						: `${local} may stand ${taken === 1 ? 'once' : `${taken} times`} here`
				);
			}
	};

	// written before the envelope around it, so that all prefixes are known
	const headerLines: string[] = [];
	for (const [key, value] of Object.entries(headers ?? {})) {
		const one = model.input.headers.find(
			(entry) => entry.local === key || nameOf(entry.namespace, entry.local) === key
		);
		if (!one) {
			told(
				['headers', key],
				`the definition knows no header ${key}${nearest(
					key,
					model.input.headers.map(({ local }) => local)
				)}`,
				true
			);
			continue;
		}
		element(one, value, '    ', ['headers', key]);
		headerLines.push(...lines.splice(0));
	}
	const { body } = model.input;
	if (body.length === 1) element(body[0]!, values === undefined ? {} : values, '    ', []);
	else {
		const given = isObject(values) ? (values as JsonObject) : {};
		for (const one of body) {
			const key = one.local;
			if (Object.hasOwn(given, key)) element(one, given[key]!, '    ', [key]);
			else told([key], `${key} is missing`);
		}
		for (const key of Object.keys(given))
			if (!body.some(({ local }) => local === key))
				told(
					[key],
					`there is no element ${key} here${nearest(
						key,
						body.map(({ local }) => local)
					)}`,
					true
				);
	}
	if (encoded && version === '1.1') prefixOf(SOAP_ENCODING);
	const declared = [...prefixes]
		.filter(([namespace]) => namespace !== XML_NAMESPACE)
		.map(([namespace, prefix]) => `xmlns:${prefix}="${escapeAttribute(namespace)}"`);
	if (encoded && version === '1.1') declared.push(`env:encodingStyle="${SOAP_ENCODING}"`);
	return {
		text: [
			`<env:Envelope ${declared.join(' ')}>`,
			...(headerLines.length > 0 ? ['  <env:Header>', ...headerLines, '  </env:Header>'] : []),
			...(lines.length > 0 ? ['  <env:Body>', ...lines, '  </env:Body>'] : ['  <env:Body/>']),
			'</env:Envelope>'
		].join('\n'),
		problems
	};
}

const hasLeft = (entry: { values: Json[]; taken: number } | undefined): boolean =>
	entry !== undefined && entry.taken < entry.values.length;

export const hasAny = (content: ParticleModel | undefined): boolean =>
	content !== undefined && (content.kind === 'any' || (content.kind !== 'element' && content.items.some(hasAny)));

const fitsEmpty = (particle: ParticleModel): boolean =>
	particle.min === 0 ||
	(particle.kind === 'choice'
		? particle.items.some(fitsEmpty)
		: particle.kind !== 'element' && particle.kind !== 'any' && particle.items.every(fitsEmpty));

/** The most often that an element may stand in a content, all that is around it counted. */
export function maxOf(content: ParticleModel | undefined, element: ElementModel): { max: number } {
	const count = (particle: ParticleModel): number => {
		if (particle.kind === 'any') return 0;
		const within =
			particle.kind === 'element'
				? Number(particle.elements.some((one) => one.local === element.local && one.namespace === element.namespace))
				: particle.items.reduce((sum, item) => Math.min(UNBOUNDED, sum + count(item)), 0);
		return within === 0 ? 0 : Math.min(UNBOUNDED, within * particle.max);
	};
	return { max: content ? count(content) : 0 };
}

/** The group that repeats as a whole, where a content is one. */
export function repeatingGroup(content: ParticleModel): Extract<ParticleModel, { items: unknown }> | undefined {
	if (content.kind === 'element' || content.kind === 'any') return undefined;
	if (content.max > 1) return content;
	return content.items.length === 1 ? repeatingGroup(content.items[0]!) : undefined;
}

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
	const kids = (element: XmlElement) => element.children.filter((one): one is XmlElement => typeof one !== 'string');
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
		const children = kids(element);
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
	const inBody = kids(body);
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
	for (const child of kids(inside('Header') ?? { ...body, children: [] })) {
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

/** Whether two documents say the same: prefixes, spaces between elements and the order of attributes aside. */
export function sameXml(a: XmlElement, b: XmlElement): boolean {
	if (a.local !== b.local || a.namespace !== b.namespace || a.attributes.length !== b.attributes.length) return false;
	for (const one of a.attributes) {
		const other = b.attributes.find(({ local, namespace }) => local === one.local && namespace === one.namespace);
		// a QName may have another prefix
		const plain = (text: string) =>
			one.namespace === XSI || one.namespace === SOAP_ENCODING ? text.replace(/^[^:]*:/, '') : text;
		if (!other || plain(other.value) !== plain(one.value)) return false;
	}
	const parts = (element: XmlElement): (XmlElement | string)[] => {
		const merged: (XmlElement | string)[] = [];
		for (const child of element.children)
			if (typeof child === 'string' && typeof merged.at(-1) === 'string')
				merged.push(`${merged.pop() as string}${child}`);
			else merged.push(child);
		if (!merged.some((one) => typeof one !== 'string')) return merged.filter((one) => one !== '');
		return merged.map((one) => (typeof one === 'string' ? one.trim() : one)).filter((one) => one !== '');
	};
	const [left, right] = [parts(a), parts(b)];
	return (
		left.length === right.length &&
		left.every((one, index) => {
			const other = right[index]!;
			return typeof one === 'string' || typeof other === 'string' ? one === other : sameXml(one, other);
		})
	);
}
