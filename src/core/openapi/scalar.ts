import { exactNumber, isObject, type Json } from '../model/json.ts';

/** A text as the number or truth value that a schema speaks of, where it is one. */
export function scalarOf(text: string, schema: Json | undefined): Json {
	const types = isObject(schema) ? [schema.type].flat() : [];
	if (types.some((type) => type === 'integer' || type === 'number') && /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(text))
		return exactNumber(text);
	if (types.includes('boolean') && /^(true|false)$/.test(text)) return text === 'true';
	return text;
}
