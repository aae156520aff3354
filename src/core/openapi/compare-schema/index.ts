import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { compareBranches } from './branches.ts';
import { asList, Findings, type Direction, type SchemaChange } from './findings.ts';
import { compareProperties } from './properties.ts';
import { DEEPEST, flat, resolved } from './resolve.ts';
import { typeRule, valueRules } from './rules.ts';

export { LEVELS, type Direction, type Level, type SchemaChange } from './findings.ts';

/** So many pairs of schemas are compared at most. */
const MOST = 20_000;

const isOpen = (schema: JsonObject | boolean): boolean =>
	schema === true || (isObject(schema) && Object.keys(schema).every((key) => key === '$defs'));

/**
 * What is different between two schemas, as JSON Schema by itself with its $defs.
 * @param direction whether callers send or receive what they describe
 */
export function compareSchemas(before: JsonObject, after: JsonObject, direction: Direction): SchemaChange[] {
	const findings = new Findings(direction);
	const seen = new Set<string>();
	let steps = 0;
	const look = (a: Json, b: Json, place: string, depth: number): void => {
		if (depth > DEEPEST || ++steps > MOST) return;
		const [was, is] = [resolved(a, before.$defs), resolved(b, after.$defs)];
		if (was.key && is.key) {
			const pair = `${was.key}|${is.key}`;
			if (seen.has(pair)) return;
			seen.add(pair);
		}
		if (isObject(was.schema) && isObject(is.schema))
			return compare(flat(was.schema, before.$defs), flat(is.schema, after.$defs), place, depth);
		if (isOpen(was.schema) === isOpen(is.schema)) return;
		if (isOpen(was.schema)) findings.narrower('narrower', place, 'anything was allowed, and is not any more');
		else findings.wider('wider', place, 'anything is allowed now');
	};
	const compare = (a: JsonObject, b: JsonObject, place: string, depth: number): void => {
		if (typeRule(a, b, place, findings)) return;
		for (const rule of valueRules) rule(a, b, place, findings);
		const deeper = (x: Json, y: Json, at: string) => look(x, y, at, depth + 1);
		compareProperties(a, b, place, findings, deeper);
		if (a.items !== undefined && b.items !== undefined) deeper(a.items, b.items, `${place}[*]`);
		else if (b.items !== undefined && !Array.isArray(b.items))
			findings.narrower('items', `${place}[*]`, 'items have a schema now');
		else if (a.items !== undefined) findings.wider('items', `${place}[*]`, 'items may be anything');
		for (const key of ['oneOf', 'anyOf'] as const)
			compareBranches(asList(a[key]), asList(b[key]), key, place, findings, deeper);
	};
	look(before, after, '', 0);
	return findings.changes;
}
