import { didYouMean } from '../messages.ts';
import { writeJson, isObject, type Json, type JsonObject } from '../model/json.ts';
import {
	ANY_KEY,
	EACH_KEY,
	ENVELOPE,
	TEXT_KEY,
	TYPE_KEY,
	XML_NAMESPACE,
	XSI,
	type SoapValues,
	type ValueProblem,
	type WrittenEnvelope
} from './envelope.ts';
import {
	elementsWithin,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type SoapModel,
	type TypeModel
} from './model.ts';
import { fitsEmpty, hasAny, maxOf, repeatingGroup } from './particles.ts';
import { SOAP_ENCODING, XSD } from './schema/index.ts';
import { simpleProblem } from './simple.ts';
import { escapeAttribute, escapeText, nameOf, splitName } from './tree.ts';

/** How an envelope is written. */
export interface WriteOptions {
	/** Escapes a text; expressions may be left alone by it. */
	escape?: (text: string) => string;
	/** Whether a text is still to be computed, so that nothing can be said of it. */
	open?: (text: string) => boolean;
	/** What stands for the content of an element that holds bytes as Base64: XOP has them travel beside the envelope. */
	binary?: (base64: string) => string;
	/** What the definition does not know is written all the same, behind what it knows; it is told as well. */
	unknown?: boolean;
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
	const report = (path: ValueProblem['path'], message: string, unknown?: true) =>
		void problems.push({ path, message, ...(unknown ? { unknown } : {}) });

	const textOf = (value: Json): string =>
		Array.isArray(value) ? value.map(textOf).join(' ') : isObject(value) ? writeJson(value) : String(value ?? '');
	const checkText = (type: TypeModel | undefined, text: string, path: ValueProblem['path']) => {
		const wrong = type?.kind === 'simple' && !open(text) ? simpleProblem(type, text) : undefined;
		if (wrong) report(path, wrong);
	};

	/** The type that a value asks for by xsi:type, or the declared one. */
	const chosenType = (key: string, value: Json, path: ValueProblem['path']): { key: string; other: boolean } => {
		const type = types[key];
		const wanted = isObject(value) ? value[TYPE_KEY] : undefined;
		if (wanted === undefined) {
			if (type?.kind === 'complex' && type.abstract)
				report([...path, TYPE_KEY], `it is abstract: say which type it has by ${TYPE_KEY}`);
			return { key, other: false };
		}
		const found = (type?.kind === 'complex' ? (type.derived ?? [key]) : [key]).find(
			(one) => one === wanted || splitName(one).local === String(wanted).replace(/^.*:/, '')
		);
		if (!found) {
			const known = (type?.kind === 'complex' ? (type.derived ?? []) : []).map((one) => splitName(one).local);
			report(
				[...path, TYPE_KEY],
				`there is no type ${textOf(wanted as Json)} here${didYouMean(textOf(wanted as Json), known)}`
			);
		}
		return { key: found ?? key, other: found !== undefined };
	};

	function element(one: ElementModel, value: Json, indent: string, path: ValueProblem['path']): void {
		const name = qualified(one.namespace, one.local);
		const { key, other } = chosenType(one.type, value, path);
		const type = types[key];
		const attributes: string[] = [];
		if (other || (encoded && type?.name && !(type.kind === 'complex' && type.arrayOf))) {
			const { namespace, local } = splitName(type?.name || key);
			if (other || encoded) attributes.push(`${qualified(XSI, 'type')}="${qualified(namespace, local)}"`);
		}
		if (value === null) {
			if (!one.nillable) report(path, 'it cannot be nil');
			lines.push(`${indent}<${name} ${qualified(XSI, 'nil')}="true"/>`);
			return;
		}
		if (!type || type.kind === 'simple') {
			const text = isObject(value) ? textOf(value[TEXT_KEY] ?? '') : textOf(value);
			if (isObject(value)) {
				for (const at of Object.keys(value))
					if (at !== TEXT_KEY && at !== TYPE_KEY) report([...path, at], `${one.local} holds text only`, true);
			}
			if (one.fixed !== undefined && !open(text) && text !== one.fixed) report(path, `it is fixed to ${one.fixed}`);
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
			if (value.length === 0) return void lines.push(`${indent}<${[name, ...attributes].join(' ')}/>`);
			lines.push(`${indent}<${[name, ...attributes].join(' ')}>`);
			value.forEach((entry, index) => element(within, entry, `${indent}  `, [...path, index]));
			lines.push(`${indent}</${name}>`);
			return;
		}
		// a whole value that is still to be computed, or text where elements are wanted
		const given: JsonObject = isObject(value) ? (value as JsonObject) : { [TEXT_KEY]: value };
		for (const use of type.attributes) {
			const key = [`@${use.local}`, `@${nameOf(use.namespace, use.local)}`].find((at) => Object.hasOwn(given, at));
			if (key === undefined) {
				if (use.required) report([...path, `@${use.local}`], `the attribute ${use.local} is missing`);
				continue;
			}
			const text = textOf(given[key]!);
			if (use.fixed !== undefined && !open(text) && text !== use.fixed)
				report([...path, key], `it is fixed to ${use.fixed}`);
			checkText(use.type, text, [...path, key]);
			attributes.push(`${qualified(use.namespace, use.local)}="${inAttribute(text)}"`);
		}
		for (const [key, own] of Object.entries(given)) {
			if (!key.startsWith('@') || key === TYPE_KEY) continue;
			const { namespace, local } = splitName(key.slice(1));
			if (type.attributes.some((use) => use.local === local)) continue;
			if (!type.anyAttribute) {
				if (options.unknown) attributes.push(`${qualified(namespace, local)}="${inAttribute(textOf(own))}"`);
				const known = type.attributes.map((use) => `@${use.local}`);
				report([...path, key], `${one.local} has no attribute ${local}${didYouMean(key, known)}`, true);
			} else attributes.push(`${qualified(namespace, local)}="${inAttribute(textOf(own))}"`);
		}
		const opening = [name, ...attributes].join(' ');
		const text = given[TEXT_KEY] === undefined ? '' : textOf(given[TEXT_KEY]);
		if (type.text) {
			if (Object.hasOwn(given, TEXT_KEY)) checkText(type.text, text, path);
			else report([...path, TEXT_KEY], 'its text is missing');
			for (const key of Object.keys(given))
				if (!key.startsWith('@') && key !== TEXT_KEY) report([...path, key], `${one.local} holds text only`, true);
			lines.push(`${indent}<${opening}>${escape(text)}</${name}>`);
			return;
		}
		const at = lines.length;
		lines.push('');
		if (text) {
			if (!type.mixed && !open(text)) report(path, `${one.local} holds elements, no text`);
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
		const strangers: [name: string, value: Json][] = [];
		const waitingOf = (from: JsonObject, at: ValueProblem['path']): Waiting => {
			const waiting: Waiting = new Map();
			for (const [key, value] of Object.entries(from)) {
				if (key.startsWith('@') || key === TEXT_KEY || key === EACH_KEY) continue;
				const one = keys.get(key) ?? (key === ANY_KEY && holdsAny ? undefined : null);
				if (one === null) {
					report(
						[...at, key],
						`there is no element ${splitName(key).local} here${didYouMean(key, [...keys.keys()])}`,
						true
					);
					strangers.push([key, value as Json]);
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
					report([...at, valueKey(first!, type)], wanted);
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
						report(
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
				if (!isObject(entry)) return report(at, 'an object with the elements of one pass is wanted', true);
				const own = waitingOf(entry as JsonObject, at);
				write(repeating ? { ...repeating, min: 1, max: 1 } : type.content!, own, at, false);
				leftovers(own, keys, indent, at);
			});
			return;
		}
		if (type.content) write(type.content, waiting, path, false);
		leftovers(waiting, keys, indent, path);
		const home = known[0]?.namespace ?? '';
		if (options.unknown) for (const [key, value] of strangers) stranger(key, value, home, indent);
	}
	const leftovers = (
		waiting: Waiting,
		keys: ReadonlyMap<string, ElementModel>,
		indent: string,
		path: ValueProblem['path']
	): void => {
		for (const [key, { values, taken }] of waiting)
			if (taken < values.length) {
				const { local } = splitName(key);
				const one = keys.get(key);
				if (options.unknown && one)
					for (const value of values.slice(taken)) element(one, value, indent, [...path, key]);
				report(
					[...path, key],
					taken === 0
						? `${local} does not go with the others here`
						: `${local} may stand ${taken === 1 ? 'once' : `${taken} times`} here`,
					true
				);
			}
	};

	/** An element that no definition knows, in the namespace of those around it. */
	function stranger(key: string, value: Json, home: string, indent: string): void {
		if (Array.isArray(value)) return value.forEach((one) => stranger(key, one, home, indent));
		const { namespace, local } = splitName(key);
		const own = namespace || home;
		const name = qualified(own, local);
		if (value === null) return void lines.push(`${indent}<${name} ${qualified(XSI, 'nil')}="true"/>`);
		if (!isObject(value)) return void lines.push(`${indent}<${name}>${escape(textOf(value))}</${name}>`);
		const entries = Object.entries(value as JsonObject);
		const attributes = entries
			.filter(([at]) => at.startsWith('@'))
			.map(([at, one]) => ` ${at.slice(1)}="${inAttribute(textOf(one))}"`);
		const text = entries.find(([at]) => at === TEXT_KEY)?.[1];
		const inner = entries.filter(([at]) => !/^[@#]/.test(at));
		const open = `${indent}<${name}${attributes.join('')}`;
		if (inner.length === 0)
			return void lines.push(text === undefined ? `${open}/>` : `${open}>${escape(textOf(text))}</${name}>`);
		lines.push(`${open}>`);
		if (text !== undefined) lines.push(`${indent}  ${escape(textOf(text))}`);
		for (const [at, one] of inner) stranger(at, one, own, `${indent}  `);
		lines.push(`${indent}</${name}>`);
	}

	// written before the envelope around it, so that all prefixes are known
	const headerLines: string[] = [];
	for (const [key, value] of Object.entries(headers ?? {})) {
		const one = model.input.headers.find(
			(entry) => entry.local === key || nameOf(entry.namespace, entry.local) === key
		);
		if (!one) {
			report(
				['headers', key],
				`the definition knows no header ${key}${didYouMean(
					key,
					model.input.headers.map(({ local }) => local)
				)}`,
				true
			);
			if (options.unknown) stranger(key, value, '', '    ');
			headerLines.push(...lines.splice(0));
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
			else report([key], `${key} is missing`);
		}
		for (const key of Object.keys(given))
			if (!body.some(({ local }) => local === key)) {
				if (options.unknown) stranger(key, given[key]!, body[0]?.namespace ?? '', '    ');
				report(
					[key],
					`there is no element ${key} here${didYouMean(
						key,
						body.map(({ local }) => local)
					)}`,
					true
				);
			}
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
