import type { Facets } from '../builtins.ts';
import type { XmlElement } from '../tree.ts';

/** The namespace of XML Schema. */
export const XSD = 'http://www.w3.org/2001/XMLSchema';
/** The namespace of the encoding of SOAP 1.1 section 5. */
export const SOAP_ENCODING = 'http://schemas.xmlsoap.org/soap/encoding/';

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

/** A simple type, whole: what it takes over from its base included. */
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

/** An attribute of a complex type. */
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

/** A complex type, whole: what it takes over from its base included. */
export interface ComplexType {
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
/** A type of XML Schema. */
export type Type = SimpleType | ComplexType;

/** As many as one likes: a number that JSON knows. */
export const UNBOUNDED = Number.MAX_SAFE_INTEGER;

/** How often a particle may stand. */
export interface Occurs {
	min: number;
	/** UNBOUNDED for unbounded. */
	max: number;
}
/** A part of a content model (XSD 1.0 part 1 section 3.9). */
export type Particle = Occurs &
	(
		| { kind: 'element'; element: ElementDeclaration }
		| { kind: 'sequence' | 'choice' | 'all'; items: Particle[] }
		| { kind: 'any'; namespaces: string; strict?: boolean; /** The namespace of its schema. */ home?: string }
	);

/** A declaration of an element (XSD 1.0 part 1 section 3.3). */
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
