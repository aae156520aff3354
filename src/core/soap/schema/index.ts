import { splitName } from '../tree.ts';
import { anyType, builtinType } from './builtin.ts';
import { readComplex } from './complex.ts';
import { indexOf, keyOf, namesOf, type Found, type SchemaContext } from './context.ts';
import { elementByName, typeOfElement } from './elements.ts';
import { readSimple } from './simple.ts';
import { substitution } from './substitution.ts';
import { SOAP_ENCODING, XSD, type SchemaDocument, type SchemaSet, type Type } from './types.ts';

export { SOAP_ENCODING, UNBOUNDED, XSD } from './types.ts';
export type {
	AttributeUse,
	ElementDeclaration,
	Particle,
	SchemaDocument,
	SchemaSet,
	SimpleType,
	Type
} from './types.ts';

/** Makes one whole of schemas (XSD 1.0 parts 1 and 2). */
export function schemaSet(documents: SchemaDocument[]): SchemaSet {
	const context: SchemaContext = {
		...indexOf(documents),
		missing: new Set(),
		types: new Map(),
		elements: new Map(),
		ownTypes: new Map(),
		reading: new Set(),
		type: (name) => typeByName(context, name),
		readType: (found, name) => readType(context, found, name)
	};
	return {
		documents,
		element: (name) => elementByName(context, name),
		elements: () => namesOf(context, 'element'),
		type: context.type,
		has: (name) => context.index.has(keyOf('type', name)),
		typeOf: (element) => typeOfElement(context, element),
		...substitution(context),
		missing: context.missing
	};
}

function typeByName(context: SchemaContext, name: string): Type {
	const { types, index, missing } = context;
	const kept = types.get(name);
	if (kept) return kept;
	const { namespace, local } = splitName(name);
	const found = index.get(keyOf('type', name));
	const builtIn = namespace === XSD || (namespace === SOAP_ENCODING && !found);
	if (!builtIn && found) return readType(context, found, name);
	const made = builtIn ? builtinType(local, name) : anyType(name);
	if (!builtIn) missing.add(name);
	types.set(name, made);
	return made;
}

function readType(context: SchemaContext, found: Found, name: string): Type {
	const { originals, reading, missing, types } = context;
	const read = (one: Found, as: string) =>
		one.node.local === 'simpleType' ? readSimple(context, one, as) : readComplex(context, one, as);
	if (name && reading.has(name)) {
		// a redefinition speaks of what it redefines; anything else that does so is wrong
		const original = originals.get(keyOf('type', name));
		if (original && original.node !== found.node) return read(original, '');
		missing.add(`${name} (defined by itself)`);
		return anyType(name);
	}
	if (name) reading.add(name);
	try {
		const type = read(found, name);
		if (name) types.set(name, type);
		return type;
	} finally {
		reading.delete(name);
	}
}
