import { BUILTINS, type Facets } from './builtins.ts';
import {
	attributeOf,
	childOf,
	childrenOf,
	elementsOf,
	nameOf,
	readName,
	splitName,
	textIn,
	type XmlElement
} from './tree.ts';

export const XSD = 'http://www.w3.org/2001/XMLSchema';
export const SOAP_ENCODING = 'http://schemas.xmlsoap.org/soap/encoding/';
const WSDL = 'http://schemas.xmlsoap.org/wsdl/';

/** One `xs:schema`, wherever it stood. */
export interface SchemaDocument {
	/** Path of the file that it is in. */
	file: string;
	element: XmlElement;
	/** The text that its offsets count in. */
	source: string;
	/** What it defines; that of whoever includes it, where it names none itself. */
	namespace: string;
	/** Read by `xs:redefine`: what its reader says of a name holds. */
	redefined?: boolean;
}

export interface SimpleType {
	kind: 'simple';
	/** `{namespace}local`; empty when it has none. */
	name: string;
	/** The built-in type that it comes from. */
	builtin: string;
	variety: 'atomic' | 'list' | 'union';
	item?: SimpleType;
	members?: SimpleType[];
	facets: Facets;
	doc: string;
}

export interface AttributeUse {
	local: string;
	/** Empty when it is written without a prefix. */
	namespace: string;
	type: SimpleType;
	required: boolean;
	default?: string;
	fixed?: string;
	doc: string;
}

interface ComplexType {
	kind: 'complex';
	name: string;
	base: string;
	abstract: boolean;
	mixed: boolean;
	/** Its elements; undefined for none. */
	content?: Particle;
	/** Its text, when it holds text and no elements. */
	text?: SimpleType;
	attributes: AttributeUse[];
	/** Other attributes are welcome. */
	anyAttribute: boolean;
	/** The type of what it holds, when it is an array of SOAP 1.1 section 5.4.2. */
	arrayOf?: string;
	doc: string;
}
export type Type = SimpleType | ComplexType;

/** As many as one likes: a number that JSON knows. */
export const UNBOUNDED = Number.MAX_SAFE_INTEGER;

interface Occurs {
	min: number;
	/** UNBOUNDED for unbounded. */
	max: number;
}
export type Particle = Occurs &
	(
		| { kind: 'element'; element: ElementDeclaration }
		| { kind: 'sequence' | 'choice' | 'all'; items: Particle[] }
		| { kind: 'any'; namespaces: string; strict?: boolean; /** The namespace of its schema. */ home?: string }
	);

export interface ElementDeclaration {
	local: string;
	/** Empty when it is written without one. */
	namespace: string;
	/** Empty for a type of its own. */
	typeName: string;
	nillable: boolean;
	abstract: boolean;
	default?: string;
	fixed?: string;
	doc: string;
	/** Where the type of its own stands. */
	own?: { node: XmlElement; document: SchemaDocument };
	/** A global one may be stood in for by others. */
	global: boolean;
	substitutes?: string;
	/** Its type, when no schema has it: the element around the parts of an RPC call. */
	made?: Type;
}

const GROUPS_DEEP = 50;

interface Found {
	node: XmlElement;
	document: SchemaDocument;
}

/** The schemas of a definition as a whole: elements and types by name, read when they are asked for. */
export interface SchemaSet {
	documents: SchemaDocument[];
	element(name: string): ElementDeclaration | undefined;
	elements(): string[];
	/** A type by name. @returns any content when there is none of that name */
	type(name: string): Type;
	has(name: string): boolean;
	typeOf(element: ElementDeclaration): Type;
	/** Types that may stand in for one by `xsi:type`, itself included unless it is abstract. */
	derived(name: string): string[];
	/** Elements that may stand for one, itself included unless it is abstract. */
	standIns(element: ElementDeclaration): ElementDeclaration[];
	/** Names that something refers to and that nothing defines. */
	missing: Set<string>;
}

const docOf = (node: XmlElement): string => {
	const annotation = childOf(node, XSD, 'annotation');
	if (!annotation) return '';
	const texts = childrenOf(annotation, XSD, 'documentation').map((one) => textIn(one).replace(/\s+/g, ' ').trim());
	return texts.join(' ').trim();
};

const occursOf = (node: XmlElement): Occurs => {
	const count = (text: string | undefined) =>
		text === 'unbounded' ? UNBOUNDED : /^\d+$/.test(text ?? '') ? Number(text) : 1;
	const min = count(attributeOf(node, 'minOccurs'));
	return { min: min === UNBOUNDED ? 1 : min, max: count(attributeOf(node, 'maxOccurs')) };
};

const simple = (builtin: string, name: string): SimpleType => ({
	kind: 'simple',
	name,
	builtin,
	variety: 'atomic',
	facets: BUILTINS[builtin]?.facets ?? {},
	doc: ''
});
const anyType = (name: string): ComplexType => ({
	kind: 'complex',
	name,
	base: '',
	abstract: false,
	mixed: true,
	content: { kind: 'any', min: 0, max: UNBOUNDED, namespaces: '##any' },
	attributes: [],
	anyAttribute: true,
	doc: ''
});

const isTrue = (text: string | undefined): boolean => text === 'true' || text === '1';

/** Makes one whole of schemas (XSD 1.0 parts 1 and 2). */
export function schemaSet(documents: SchemaDocument[]): SchemaSet {
	const kinds = ['element', 'simpleType', 'complexType', 'group', 'attributeGroup', 'attribute'] as const;
	const index = new Map<string, Found>();
	const key = (kind: string, name: string) =>
		`${kind === 'simpleType' || kind === 'complexType' ? 'type' : kind} ${name}`;
	const originals = new Map<string, Found>();
	for (const document of [...documents].sort((a, b) => Number(b.redefined ?? false) - Number(a.redefined ?? false))) {
		const add = (node: XmlElement) => {
			const name = attributeOf(node, 'name');
			if (!name || !kinds.includes(node.local as never)) return;
			const at = key(node.local, nameOf(document.namespace, name));
			const before = index.get(at);
			if (before?.document.redefined) originals.set(at, before);
			if (!before || before.document.redefined) index.set(at, { node, document });
		};
		for (const child of elementsOf(document.element)) {
			if (child.namespace !== XSD) continue;
			if (child.local === 'redefine') elementsOf(child).forEach(add);
			else add(child);
		}
	}
	const missing = new Set<string>();
	const types = new Map<string, Type>();
	const elements = new Map<string, ElementDeclaration>();

	const refer = (document: SchemaDocument, node: XmlElement, text: string): string => {
		const name = readName(node, text);
		// a schema without a namespace of its own speaks in that of whoever includes it
		return name.startsWith('{') || attributeOf(document.element, 'targetNamespace')
			? name
			: nameOf(document.namespace, name);
	};

	function type(name: string): Type {
		const kept = types.get(name);
		if (kept) return kept;
		const { namespace, local } = splitName(name);
		if (namespace === XSD || (namespace === SOAP_ENCODING && !index.has(key('type', name)))) {
			const known = Object.hasOwn(BUILTINS, local);
			const made = known ? simple(local, nameOf(XSD, local)) : anyType(name);
			if (local === 'IDREFS' || local === 'NMTOKENS' || local === 'ENTITIES') {
				const item = simple(local.replace(/IES$/, 'Y').replace(/S$/, ''), '');
				Object.assign(made, { variety: 'list', item });
			}
			types.set(name, made);
			return made;
		}
		const found = index.get(key('type', name));
		if (!found) {
			missing.add(name);
			const unknown = anyType(name);
			types.set(name, unknown);
			return unknown;
		}
		return readType(found, name);
	}

	const reading = new Set<string>();
	function readType({ node, document }: Found, name: string): Type {
		if (name && reading.has(name)) {
			// a redefinition speaks of what it redefines; anything else that does so is wrong
			const original = originals.get(key('type', name));
			if (original && original.node !== node)
				return node.local === 'simpleType' ? readSimple(original, '') : readComplex(original, '');
			missing.add(`${name} (defined by itself)`);
			return anyType(name);
		}
		if (name) reading.add(name);
		try {
			const read =
				node.local === 'simpleType' ? readSimple({ node, document }, name) : readComplex({ node, document }, name);
			if (name) types.set(name, read);
			return read;
		} finally {
			reading.delete(name);
		}
	}

	const simpleOf = (found: Type): SimpleType =>
		found.kind === 'simple' ? found : (found.text ?? simple('string', ''));
	const referredSimple = (document: SchemaDocument, node: XmlElement, text: string): SimpleType => {
		const name = refer(document, node, text);
		if (reading.has(name) && originals.has(key('type', name)))
			return simpleOf(readSimple(originals.get(key('type', name))!, ''));
		return simpleOf(type(name));
	};

	function readSimple({ node, document }: Found, name: string): SimpleType {
		const doc = docOf(node);
		const list = childOf(node, XSD, 'list');
		if (list) {
			const own = childOf(list, XSD, 'simpleType');
			const item = own
				? readSimple({ node: own, document }, '')
				: referredSimple(document, list, attributeOf(list, 'itemType') ?? '');
			return { kind: 'simple', name, builtin: 'anySimpleType', variety: 'list', item, facets: {}, doc };
		}
		const union = childOf(node, XSD, 'union');
		if (union) {
			const members = [
				...(attributeOf(union, 'memberTypes') ?? '')
					.split(/\s+/)
					.filter(Boolean)
					.map((one) => referredSimple(document, union, one)),
				...childrenOf(union, XSD, 'simpleType').map((one) => readSimple({ node: one, document }, ''))
			];
			return { kind: 'simple', name, builtin: 'anySimpleType', variety: 'union', members, facets: {}, doc };
		}
		const restriction = childOf(node, XSD, 'restriction');
		if (!restriction) return { ...simple('string', name), doc };
		return { ...restricted(restriction, document), name, doc };
	}

	function restricted(restriction: XmlElement, document: SchemaDocument, base?: SimpleType): SimpleType {
		const own = childOf(restriction, XSD, 'simpleType');
		const named = attributeOf(restriction, 'base');
		const from = own
			? readSimple({ node: own, document }, '')
			: (base ?? (named === undefined ? simple('string', '') : referredSimple(document, restriction, named)));
		return { ...from, facets: facetsOf(restriction, from.facets) };
	}

	/** The declaration of an element, local or global. */
	function declare(node: XmlElement, document: SchemaDocument, global: boolean): ElementDeclaration {
		const local = attributeOf(node, 'name') ?? '';
		const form = attributeOf(node, 'form') ?? attributeOf(document.element, 'elementFormDefault') ?? 'unqualified';
		const typed = attributeOf(node, 'type');
		const own = childrenOf(node, XSD, 'simpleType', 'complexType')[0];
		const substitutes = attributeOf(node, 'substitutionGroup');
		const head = substitutes === undefined ? undefined : refer(document, node, substitutes);
		const usual = attributeOf(node, 'default');
		const fixed = attributeOf(node, 'fixed');
		return {
			local,
			namespace: global || form === 'qualified' ? document.namespace : '',
			typeName: typed === undefined ? (own || head ? '' : nameOf(XSD, 'anyType')) : refer(document, node, typed),
			nillable: isTrue(attributeOf(node, 'nillable')),
			abstract: isTrue(attributeOf(node, 'abstract')),
			...(usual === undefined ? {} : { default: usual }),
			...(fixed === undefined ? {} : { fixed }),
			doc: docOf(node),
			...(own && typed === undefined ? { own: { node: own, document } } : {}),
			global,
			...(head === undefined ? {} : { substitutes: head })
		};
	}

	function element(name: string): ElementDeclaration | undefined {
		const kept = elements.get(name);
		if (kept) return kept;
		const found = index.get(key('element', name));
		if (!found) return undefined;
		const made = declare(found.node, found.document, true);
		elements.set(name, made);
		return made;
	}

	const ownTypes = new Map<XmlElement, Type>();
	function typeOf(one: ElementDeclaration, depth = 0): Type {
		if (one.made) return one.made;
		if (one.own) {
			const kept = ownTypes.get(one.own.node);
			if (kept) return kept;
			const read = readType(one.own, '');
			ownTypes.set(one.own.node, read);
			return read;
		}
		if (one.typeName) return type(one.typeName);
		const head = one.substitutes && depth < GROUPS_DEEP ? element(one.substitutes) : undefined;
		return head ? typeOf(head, depth + 1) : anyType('');
	}

	function particle(node: XmlElement, document: SchemaDocument, deep = 0): Particle | undefined {
		if (node.namespace !== XSD || deep > GROUPS_DEEP) return undefined;
		const occurs = occursOf(node);
		if (occurs.max === 0) return undefined;
		if (node.local === 'element') {
			const ref = attributeOf(node, 'ref');
			if (ref === undefined) return { kind: 'element', ...occurs, element: declare(node, document, false) };
			const name = refer(document, node, ref);
			const found = element(name);
			if (!found) {
				missing.add(name);
				return { kind: 'any', ...occurs, namespaces: splitName(name).namespace };
			}
			return { kind: 'element', ...occurs, element: found };
		}
		if (node.local === 'any') {
			const strict = (attributeOf(node, 'processContents') ?? 'strict') === 'strict';
			const namespaces = attributeOf(node, 'namespace') ?? '##any';
			return { kind: 'any', ...occurs, namespaces, strict, home: document.namespace };
		}
		if (node.local === 'group') {
			const name = refer(document, node, attributeOf(node, 'ref') ?? '');
			const found = index.get(key('group', name));
			if (!found) {
				missing.add(name);
				return undefined;
			}
			const original = originals.get(key('group', name));
			const from = node.parent && original && within(node, found.node) ? original : found;
			const [model] = childrenOf(from.node, XSD, 'sequence', 'choice', 'all');
			const inner = model && particle(model, from.document, deep + 1);
			if (!inner) return undefined;
			return occurs.min === 1 && occurs.max === 1 ? inner : { kind: 'sequence', ...occurs, items: [inner] };
		}
		if (node.local !== 'sequence' && node.local !== 'choice' && node.local !== 'all') return undefined;
		const items = elementsOf(node)
			.map((child) => particle(child, document, deep + 1))
			.filter((one) => one !== undefined);
		return { kind: node.local, ...occurs, items };
	}

	function attributesOf(
		node: XmlElement,
		document: SchemaDocument,
		deep = 0
	): { uses: AttributeUse[]; gone: string[]; any: boolean } {
		const uses: AttributeUse[] = [];
		const gone: string[] = [];
		let any = childOf(node, XSD, 'anyAttribute') !== undefined;
		for (const child of childrenOf(node, XSD, 'attribute', 'attributeGroup')) {
			if (child.local === 'attributeGroup') {
				const name = refer(document, child, attributeOf(child, 'ref') ?? '');
				const found = index.get(key('attributeGroup', name));
				if (!found) missing.add(name);
				else if (deep < GROUPS_DEEP) {
					const inner = attributesOf(found.node, found.document, deep + 1);
					uses.push(...inner.uses);
					any ||= inner.any;
				}
				continue;
			}
			const ref = attributeOf(child, 'ref');
			const name = ref === undefined ? undefined : refer(document, child, ref);
			const found = name === undefined ? { node: child, document } : index.get(key('attribute', name));
			const { namespace, local } =
				name === undefined ? { namespace: '', local: attributeOf(child, 'name') ?? '' } : splitName(name);
			const qualified =
				(attributeOf(child, 'form') ?? attributeOf(document.element, 'attributeFormDefault')) === 'qualified';
			if (attributeOf(child, 'use') === 'prohibited') {
				gone.push(local);
				continue;
			}
			const given = found?.node ?? child;
			const own = childOf(given, XSD, 'simpleType');
			const typed = attributeOf(given, 'type');
			const at = found?.document ?? document;
			const usual = attributeOf(child, 'default') ?? attributeOf(given, 'default');
			const fixed = attributeOf(child, 'fixed') ?? attributeOf(given, 'fixed');
			uses.push({
				local,
				namespace: name === undefined ? (qualified ? document.namespace : '') : namespace,
				type: own
					? readSimple({ node: own, document: at }, '')
					: typed === undefined
						? simple(local === 'lang' ? 'language' : 'string', '')
						: simpleOf(type(refer(at, given, typed))),
				required: attributeOf(child, 'use') === 'required',
				...(usual === undefined ? {} : { default: usual }),
				...(fixed === undefined ? {} : { fixed }),
				doc: docOf(child) || docOf(given)
			});
		}
		return { uses, gone, any };
	}

	function readComplex({ node, document }: Found, name: string): ComplexType {
		const made: ComplexType = {
			kind: 'complex',
			name,
			base: '',
			abstract: isTrue(attributeOf(node, 'abstract')),
			mixed: isTrue(attributeOf(node, 'mixed')),
			attributes: [],
			anyAttribute: false,
			doc: docOf(node)
		};
		const modelOf = (at: XmlElement) => {
			const [model] = childrenOf(at, XSD, 'sequence', 'choice', 'all', 'group');
			return model && particle(model, document);
		};
		const content = childrenOf(node, XSD, 'simpleContent', 'complexContent')[0];
		const derivation = content && childrenOf(content, XSD, 'extension', 'restriction')[0];
		const at = derivation ?? node;
		const { uses, gone, any } = attributesOf(at, document);
		made.anyAttribute = any;
		if (!content || !derivation) {
			const model = modelOf(node);
			if (model) made.content = model;
			made.attributes = uses;
			return made;
		}
		if (isTrue(attributeOf(content, 'mixed'))) made.mixed = true;
		made.base = refer(document, derivation, attributeOf(derivation, 'base') ?? '');
		const original = reading.has(made.base) ? originals.get(key('type', made.base)) : undefined;
		const base = original ? readComplexOf(original) : type(made.base);
		const extends_ = derivation.local === 'extension';
		const inherited = base.kind === 'complex' ? base.attributes : [];
		made.attributes = [
			...inherited.filter(({ local }) => !gone.includes(local) && !uses.some((one) => one.local === local)),
			...uses
		];
		if (base.kind === 'complex' && (extends_ || base.anyAttribute)) made.anyAttribute ||= extends_ && base.anyAttribute;
		if (content.local === 'simpleContent') {
			made.text = extends_ ? simpleOf(base) : restricted(derivation, document, simpleOf(base));
			return made;
		}
		if (made.base === nameOf(SOAP_ENCODING, 'Array') || (base.kind === 'complex' && base.arrayOf)) {
			const typed = childrenOf(derivation, XSD, 'attribute')
				.map((one) => ({ one, text: attributeOf(one, 'arrayType', WSDL) }))
				.find(({ text }) => text !== undefined);
			if (typed) made.arrayOf = refer(document, typed.one, typed.text!.replace(/\[[\d,]*\]\s*$/, ''));
			else if (base.kind === 'complex' && base.arrayOf) made.arrayOf = base.arrayOf;
		}
		const own = modelOf(derivation);
		if (!extends_) {
			if (own) made.content = own;
			return made;
		}
		const before = base.kind === 'complex' ? base.content : undefined;
		if (base.kind === 'complex' && base.mixed && made.base !== nameOf(XSD, 'anyType')) made.mixed = true;
		if (before && own) made.content = { kind: 'sequence', min: 1, max: 1, items: [before, own] };
		else if (before ?? own) made.content = (before ?? own)!;
		return made;
	}
	const readComplexOf = (found: Found): Type =>
		found.node.local === 'simpleType' ? readSimple(found, '') : readComplex(found, '');

	let children: Map<string, string[]> | undefined;
	/** Types by what they are derived from. */
	const derivations = (): Map<string, string[]> => {
		if (children) return children;
		children = new Map();
		for (const [at, { node, document }] of index) {
			if (!at.startsWith('type ') || node.local !== 'complexType') continue;
			const content = childrenOf(node, XSD, 'simpleContent', 'complexContent')[0];
			const derivation = content && childrenOf(content, XSD, 'extension', 'restriction')[0];
			const base = derivation && attributeOf(derivation, 'base');
			if (!base) continue;
			const from = refer(document, derivation, base);
			children.set(from, [...(children.get(from) ?? []), at.slice('type '.length)]);
		}
		return children;
	};
	const isAbstract = (name: string): boolean =>
		isTrue(attributeOf(index.get(key('type', name))?.node ?? ({ attributes: [] } as never), 'abstract'));
	function derived(name: string): string[] {
		const out: string[] = [];
		const seen = new Set([name]);
		const queue = [name];
		for (let at = queue.shift(); at !== undefined; at = queue.shift()) {
			if (!isAbstract(at)) out.push(at);
			for (const one of derivations().get(at) ?? [])
				if (!seen.has(one)) {
					seen.add(one);
					queue.push(one);
				}
		}
		return out;
	}

	let members: Map<string, string[]> | undefined;
	function standIns(one: ElementDeclaration): ElementDeclaration[] {
		if (!one.global) return [one];
		if (!members) {
			members = new Map();
			for (const at of index.keys())
				if (at.startsWith('element ')) {
					const found = element(at.slice('element '.length))!;
					if (found.substitutes)
						members.set(found.substitutes, [...(members.get(found.substitutes) ?? []), at.slice('element '.length)]);
				}
		}
		const out: ElementDeclaration[] = [];
		const seen = new Set<string>();
		const visit = (declared: ElementDeclaration) => {
			const name = nameOf(declared.namespace, declared.local);
			if (seen.has(name)) return;
			seen.add(name);
			if (!declared.abstract) out.push(declared);
			for (const other of members!.get(name) ?? []) visit(element(other)!);
		};
		visit(one);
		return out;
	}

	return {
		documents,
		element,
		elements: () =>
			[...index.keys()].filter((at) => at.startsWith('element ')).map((at) => at.slice('element '.length)),
		type,
		has: (name) => index.has(key('type', name)),
		typeOf,
		derived,
		standIns,
		missing
	};
}

const within = (node: XmlElement, outer: XmlElement): boolean => {
	for (let at: XmlElement | undefined = node; at; at = at.parent) if (at === outer) return true;
	return false;
};

function facetsOf(restriction: XmlElement, from: Facets): Facets {
	const facets: Facets = { ...from };
	const patterns: string[] = [];
	const values: string[] = [];
	for (const node of elementsOf(restriction)) {
		const value = attributeOf(node, 'value');
		if (node.namespace !== XSD || value === undefined) continue;
		switch (node.local) {
			case 'enumeration':
				values.push(value);
				break;
			case 'pattern':
				patterns.push(value);
				break;
			case 'length':
			case 'minLength':
			case 'maxLength':
			case 'totalDigits':
			case 'fractionDigits':
				facets[node.local] = Number(value);
				break;
			case 'minInclusive':
			case 'minExclusive':
				delete facets.minInclusive;
				delete facets.minExclusive;
				facets[node.local] = value;
				break;
			case 'maxInclusive':
			case 'maxExclusive':
				delete facets.maxInclusive;
				delete facets.maxExclusive;
				facets[node.local] = value;
		}
	}
	if (values.length > 0) facets.enumeration = values;
	if (patterns.length > 0) facets.patterns = [...(from.patterns ?? []), patterns];
	return facets;
}
