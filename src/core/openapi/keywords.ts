/** Keywords of schemas (JSON Schema 2020-12 and before) by what their value is. */
const words = (text: string): ReadonlySet<string> => new Set(text.split(' '));

/** The types that there are. */
export const TYPES = words('null boolean object array number string integer');

/** Whether a pattern can be read, with the flag u as the standard has it, or without. */
export function isPattern(pattern: string): boolean {
	for (const flags of ['u', ''])
		try {
			new RegExp(pattern, flags);
			return true;
		} catch {
			// without the flag, or not at all
		}
	return false;
}

/** A schema. */
export const ONE_SCHEMA = words(
	'not if then else contains propertyNames additionalProperties unevaluatedProperties unevaluatedItems additionalItems contentSchema'
);
/** A list of schemas. `items` is one or a list. */
export const SCHEMA_LIST = words('allOf anyOf oneOf prefixItems');
/** Schemas by name. */
export const NAMED_SCHEMAS = words('properties patternProperties dependentSchemas $defs definitions');
/** What says nothing of a value. */
export const ANNOTATIONS = words('example examples xml externalDocs deprecated description title default $comment');
