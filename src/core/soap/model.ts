import type {
	AttributeUse,
	ElementDeclaration,
	Particle as SchemaParticle,
	SchemaSet,
	SimpleType,
	Type
} from './schema/index.ts';
import { nameOf, splitName } from './tree.ts';
import type { Definition, SoapMessage, SoapOperation } from './wsdl/index.ts';

/** An element of a message; its type is a key of the model's types. */
export interface ElementModel {
	local: string;
	/** Empty when it is written without one. */
	namespace: string;
	type: string;
	nillable?: true;
	default?: string;
	fixed?: string;
	doc?: string;
}

/** A particle of a schema as a form shows it. */
export type ParticleModel = { min: number; max: number } & (
	| {
			kind: 'element';
			/** The elements that may stand here: one, or those of a substitution group. */
			elements: ElementModel[];
	  }
	| { kind: 'sequence' | 'choice' | 'all'; items: ParticleModel[] }
	| {
			kind: 'any';
			namespaces: string;
			strict?: boolean;
			/** One that may stand there, where it has to be known. */ known?: ElementModel;
	  }
);

/** A complex type as a form shows it. */
export interface ComplexModel {
	kind: 'complex';
	/** Empty when it has none. */
	name: string;
	abstract?: true;
	mixed?: true;
	content?: ParticleModel;
	text?: SimpleType;
	attributes: AttributeUse[];
	anyAttribute?: true;
	arrayOf?: string;
	/** Keys of the types that may stand in by xsi:type; left out when only itself may. */
	derived?: string[];
	doc?: string;
}
/** A type as a form shows it. */
export type TypeModel = SimpleType | ComplexModel;

interface MessageModel {
	body: ElementModel[];
	headers: ElementModel[];
	attachments: SoapMessage['attachments'];
}

/** All that is to be known for writing the message of an operation, as plain data. */
export interface SoapModel {
	/** Path of the WSDL. */
	definition: string;
	operation: Omit<SoapOperation, 'input' | 'output' | 'faults'>;
	input: MessageModel;
	types: Record<string, TypeModel>;
}

/** Draws from a definition what one operation needs; types that lead back to themselves are there once. */
export function modelOf(definition: Definition, operation: SoapOperation): SoapModel {
	const drawn = new Drawing(definition.schemas);
	const { input, output: _, faults: __, ...rest } = operation;
	void [_, __];
	return {
		definition: definition.file,
		operation: rest,
		input: {
			body: input.body.flatMap((one) => definition.schemas.standIns(one).slice(0, 1)).map((one) => drawn.element(one)),
			headers: input.headers.map((one) => drawn.element(one)),
			attachments: input.attachments
		},
		types: drawn.types
	};
}

/** The types that were asked for so far, and those that they need. */
class Drawing {
	readonly types: Record<string, TypeModel> = {};
	readonly #keys = new Map<Type, string>();
	readonly #schemas: SchemaSet;

	constructor(schemas: SchemaSet) {
		this.#schemas = schemas;
	}

	element(one: ElementDeclaration): ElementModel {
		return {
			local: one.local,
			namespace: one.namespace,
			type: this.#keyOf(this.#schemas.typeOf(one)),
			...(one.nillable ? { nillable: true as const } : {}),
			...(one.default === undefined ? {} : { default: one.default }),
			...(one.fixed === undefined ? {} : { fixed: one.fixed }),
			...(one.doc ? { doc: one.doc } : {})
		};
	}

	#keyOf(type: Type): string {
		const known = this.#keys.get(type);
		if (known !== undefined) return known;
		// types without a name are told apart by number
		const key = type.name && !Object.hasOwn(this.types, type.name) ? type.name : `#${this.#keys.size + 1}`;
		this.#keys.set(type, key);
		if (type.kind === 'simple') {
			this.types[key] = type;
			return key;
		}
		const model: ComplexModel = { kind: 'complex', name: type.name, attributes: type.attributes };
		// it is there before what it holds, which may be itself
		this.types[key] = model;
		if (type.abstract) model.abstract = true;
		if (type.mixed) model.mixed = true;
		if (type.anyAttribute) model.anyAttribute = true;
		if (type.text) model.text = type.text;
		if (type.doc) model.doc = type.doc;
		if (type.content) model.content = this.#particle(type.content);
		if (type.arrayOf) model.arrayOf = this.#keyOf(this.#schemas.type(type.arrayOf));
		if (type.name) {
			const derived = this.#schemas.derived(type.name).map((name) => this.#keyOf(this.#schemas.type(name)));
			if (derived.length > 1 || (type.abstract && derived.length > 0)) model.derived = derived;
		}
		return key;
	}

	#particle(one: SchemaParticle): ParticleModel {
		const occurs = { min: one.min, max: one.max };
		if (one.kind === 'element') {
			const standIns = this.#schemas.standIns(one.element);
			const elements = standIns.length > 0 ? standIns : [one.element];
			return { kind: 'element', ...occurs, elements: elements.map((each) => this.element(each)) };
		}
		if (one.kind === 'any') {
			const known = one.strict ? knownFor(one, this.#schemas) : undefined;
			return {
				...{ kind: 'any', ...occurs, namespaces: one.namespaces },
				...(one.strict ? { strict: true } : {}),
				...(known ? { known: this.element(known) } : {})
			};
		}
		return { kind: one.kind, ...occurs, items: one.items.map((item) => this.#particle(item)) };
	}
}

/** An element of a simple type that may stand where only declared ones may (XSD 1.0 part 1 section 3.10.4). */
function knownFor(
	{ namespaces, home = '' }: Extract<SchemaParticle, { kind: 'any' }>,
	schemas: SchemaSet
): ElementDeclaration | undefined {
	const allowed = namespaces.split(/\s+/);
	const allows = (namespace: string) =>
		allowed.includes('##any') ||
		(allowed.includes('##other') && namespace !== home && namespace !== '') ||
		(allowed.includes('##targetNamespace') && namespace === home) ||
		(allowed.includes('##local') && namespace === '') ||
		allowed.includes(namespace);
	const name = schemas.elements().find((one) => {
		const found = allows(splitName(one).namespace) ? schemas.element(one) : undefined;
		return found !== undefined && !found.abstract && schemas.typeOf(found).kind === 'simple';
	});
	return name === undefined ? undefined : schemas.element(name);
}

/** The name by which values speak of an element among those of its type: local, unless another one is called so too. */
export function valueKey(element: Pick<ElementModel, 'local' | 'namespace'>, type: ComplexModel): string {
	const same = elementsWithin(type.content).some(
		(one) => one.local === element.local && one.namespace !== element.namespace
	);
	return same ? nameOf(element.namespace, element.local) : element.local;
}

const within = new WeakMap<ParticleModel, ElementModel[]>();
/** All elements that may stand in a content, in order. */
export function elementsWithin(content: ParticleModel | undefined): ElementModel[] {
	if (!content || content.kind === 'any') return [];
	const kept = within.get(content);
	if (kept) return kept;
	const found = content.kind === 'element' ? content.elements : content.items.flatMap(elementsWithin);
	within.set(content, found);
	return found;
}
