import { lookUp } from '../model/lookup.ts';
import { isObject, same, type Json, type JsonObject } from '../model/json.ts';
import { compilePattern, unescapeAddress } from '../values/index.ts';
import { TYPES } from './keywords.ts';
import { keysOf } from './pointer.ts';

/** So deep and so often is looked before a value is taken as it is. */
const DEEPEST = 60;
const MOST_LOOKS = 50_000;

const compiled = new Map<string, { test(text: string): boolean } | undefined>();
/** Whether a text fits a pattern, in linear time; patterns that cannot be read so fit everything. */
export function fitsPattern(pattern: string, text: string): boolean {
	if (!compiled.has(pattern)) {
		if (compiled.size > 2000) compiled.clear();
		try {
			compiled.set(pattern, compilePattern(pattern));
		} catch {
			compiled.set(pattern, undefined);
		}
	}
	return compiled.get(pattern)?.test(text) ?? true;
}

/** What a reference within a schema by itself points at. */
export function referred(root: JsonObject, reference: string): Json {
	let found: Json = root;
	for (const key of keysOf(unescapeAddress(reference.slice(1))))
		found = isObject(found) || Array.isArray(found) ? ((found as Record<string, Json>)[key] ?? {}) : {};
	return found;
}

/**
 * Whether a schema by itself allows a value, at once and without a validator: good enough to choose among values that are
 * made, and to leave out examples that are wrong. Of formats the usual ones are looked at; what becomes too much is allowed.
 */
export function permits(root: JsonObject, schema: Json, value: Json): boolean {
	let looks = 0;
	const holds = (given: Json, value: Json, deep: number): boolean => {
		if (typeof given === 'boolean') return given;
		if (!isObject(given) || deep > DEEPEST || ++looks > MOST_LOOKS) return true;
		const s = given as JsonObject;
		const list = (key: string): Json[] => (Array.isArray(s[key]) ? s[key] : []);
		const here = (one: Json): boolean => holds(one, value, deep + 1);
		if (typeof s.$ref === 'string' && !here(referred(root, s.$ref))) return false;
		if (s.type !== undefined && ![s.type].flat().some((type) => isOf(String(type), value))) return false;
		if ('const' in s && !same(s.const, value)) return false;
		if (Array.isArray(s.enum) && !s.enum.some((one) => same(one, value))) return false;
		if (!list('allOf').every(here)) return false;
		if (Array.isArray(s.anyOf) && !s.anyOf.some(here)) return false;
		if (Array.isArray(s.oneOf) && s.oneOf.filter(here).length !== 1) return false;
		if (s.not !== undefined && here(s.not)) return false;
		if (s.if !== undefined && !here((here(s.if) ? s.then : s.else) ?? true)) return false;
		if (typeof value === 'string') return text(s, value);
		if (typeof value === 'number' || typeof value === 'bigint') return numeric(s, Number(value));
		if (Array.isArray(value)) return array(s, value, deep);
		return isObject(value) ? object(s, value as JsonObject, deep) : true;
	};
	const array = (s: JsonObject, value: Json[], deep: number): boolean => {
		if (beyond(s, 'minItems', 'maxItems', value.length)) return false;
		const first = Array.isArray(s.prefixItems) ? s.prefixItems : [];
		const fits = (item: Json, at: number) => holds(first[at] ?? s.items ?? true, item, deep + 1);
		if (!value.every(fits)) return false;
		if (s.contains !== undefined && !value.some((one) => holds(s.contains!, one, deep + 1))) return false;
		if (s.uniqueItems !== true || value.length > 200) return true;
		return value.every((one, at) => !value.slice(0, at).some((other) => same(one, other)));
	};
	const object = (s: JsonObject, value: JsonObject, deep: number): boolean => {
		const names = Object.keys(value);
		if (beyond(s, 'minProperties', 'maxProperties', names.length)) return false;
		if (Array.isArray(s.required) && !s.required.every((name) => Object.hasOwn(value, String(name)))) return false;
		const properties = isObject(s.properties) ? (s.properties as JsonObject) : {};
		const patterns = Object.entries(isObject(s.patternProperties) ? (s.patternProperties as JsonObject) : {});
		const dependent = Object.entries(isObject(s.dependentRequired) ? s.dependentRequired : {});
		if (
			dependent.some(
				([name, others]) =>
					Object.hasOwn(value, name) &&
					Array.isArray(others) &&
					!others.every((other) => Object.hasOwn(value, String(other)))
			)
		)
			return false;
		return names.every((name) => {
			if (s.propertyNames !== undefined && !holds(s.propertyNames, name, deep + 1)) return false;
			const own = [
				...(Object.hasOwn(properties, name) ? [properties[name]!] : []),
				...patterns.filter(([pattern]) => fitsPattern(pattern, name)).map(([, one]) => one)
			];
			const all = own.length > 0 ? own : [s.additionalProperties ?? true];
			return all.every((one) => holds(one, value[name]!, deep + 1));
		});
	};
	return holds(schema, value, 0);
}

const limit = (value: Json | undefined): number | undefined =>
	typeof value === 'number' || typeof value === 'bigint' ? Number(value) : undefined;
const beyond = (s: JsonObject, least: string, most: string, size: number): boolean =>
	size < (limit(s[least]) ?? 0) || size > (limit(s[most]) ?? Infinity);

/** Whether a value is of a type (JSON Schema 2020-12 section 6.1.1). */
export function isOf(type: string, value: Json): boolean {
	switch (type) {
		case 'null':
			return value === null;
		case 'array':
			return Array.isArray(value);
		case 'object':
			return isObject(value);
		case 'integer':
			return typeof value === 'bigint' || (typeof value === 'number' && Number.isInteger(value));
		case 'number':
			return typeof value === 'bigint' || typeof value === 'number';
		default:
			return typeof value === type;
	}
}

/** Whether a list of values holds none of the type that is asked for, so that nothing would fit: something else is meant. */
export function isIdleEnum(schema: JsonObject): boolean {
	const types = [schema.type ?? []].flat().map(String);
	return (
		Array.isArray(schema.enum) &&
		schema.enum.length > 0 &&
		types.length > 0 &&
		types.every((type) => TYPES.has(type)) &&
		!schema.enum.some((value) => value === null || types.some((type) => isOf(type, value)))
	);
}

/** The forms of the formats that examples get wrong (JSON Schema 2020-12 section 7.3). */
const FORMS: Record<string, RegExp> = {
	uuid: /^[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}$/i,
	date: /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/,
	'date-time': /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])t\d\d:\d\d:\d\d(\.\d+)?(z|[+-]\d\d:\d\d)$/i,
	time: /^\d\d:\d\d:\d\d(\.\d+)?(z|[+-]\d\d:\d\d)$/i,
	duration: /^P(?!$)(\d+W|(\d+Y)?(\d+M)?(\d+D)?(T(?=\d)(\d+H)?(\d+M)?(\d+S)?)?)$/,
	email: /^[^@\s]+@[^@\s]+$/,
	ipv4: /^\d{1,3}(\.\d{1,3}){3}$/,
	uri: /^[a-z][a-z\d+.-]*:[^\s<>"{}|\\^`]*$/i,
	'uri-reference': /^[^\s<>"{}|\\^`]*$/,
	byte: /^([A-Za-z\d+/]{4})*([A-Za-z\d+/]{2}==|[A-Za-z\d+/]{3}=)?$/,
	'json-pointer': /^(\/([^~/]|~[01])*)*$/
};

const text = (s: JsonObject, value: string): boolean =>
	!beyond(s, 'minLength', 'maxLength', [...value].length) &&
	(typeof s.pattern !== 'string' || fitsPattern(s.pattern, value)) &&
	(typeof s.format !== 'string' ||
		((lookUp(FORMS, s.format)?.test(value) ?? true) && (!/^date/.test(s.format) || isDay(value))));

/** Whether the month of a date has its day (RFC 3339 section 5.7). */
function isDay(text: string): boolean {
	const [year = 0, month = 0, day = 0] = text.slice(0, 10).split('-').map(Number);
	return day <= new Date(Date.UTC(year, month, 0)).getUTCDate();
}

function numeric(s: JsonObject, value: number): boolean {
	const step = limit(s.multipleOf);
	const near = (quotient: number) => Math.abs(quotient - Math.round(quotient)) < 1e-9;
	return (
		value >= (limit(s.minimum) ?? -Infinity) &&
		value <= (limit(s.maximum) ?? Infinity) &&
		value > (limit(s.exclusiveMinimum) ?? -Infinity) &&
		value < (limit(s.exclusiveMaximum) ?? Infinity) &&
		(!step || near(value / step))
	);
}
