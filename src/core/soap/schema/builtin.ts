import { BUILTINS } from '../builtins.ts';
import { nameOf } from '../tree.ts';
import { UNBOUNDED, XSD, type ComplexType, type SimpleType, type Type } from './types.ts';

/** A built-in type that is not a list. */
export const simple = (builtin: string, name: string): SimpleType => ({
	kind: 'simple',
	name,
	builtin,
	variety: 'atomic',
	facets: BUILTINS[builtin]?.facets ?? {},
	doc: ''
});
/** Any content: `xs:anyType`, and what stands where nothing is known of a type. */
export const anyType = (name: string): ComplexType => ({
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

const LISTS: Record<string, string> = { IDREFS: 'IDREF', NMTOKENS: 'NMTOKEN', ENTITIES: 'ENTITY' };
/** A type of XSD 1.0 part 2 by its local name; any content for one that is not there. */
export function builtinType(local: string, name: string): Type {
	if (!Object.hasOwn(BUILTINS, local)) return anyType(name);
	const made = simple(local, nameOf(XSD, local));
	return Object.hasOwn(LISTS, local) ? { ...made, variety: 'list', item: simple(LISTS[local]!, '') } : made;
}

/** What a type says of text. */
export const textTypeOf = (type: Type): SimpleType =>
	type.kind === 'simple' ? type : (type.text ?? simple('string', ''));
