import { lookUp } from '../model/lookup.ts';
import { isBinary } from '../model/binary-schema.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { Param } from '../model/params.ts';
import { styled } from '../openapi/index.ts';
import { hasExpression } from '../values/index.ts';
import { resolve, typesOf, type Root } from './schema.ts';

// The fields of a form and the parts of a multipart body as one value, as their schema sees them (OpenAPI 3.1 sections
// 4.8.14.4 and 4.8.15): a name that repeats is a list, what is written with a style is what it means.

const encodingOf = (encoding: JsonObject, name: string): JsonObject =>
	isObject(encoding[name]) ? (encoding[name] as JsonObject) : {};
const styleOf = (encoding: JsonObject, name: string) => {
	const { style, explode } = encodingOf(encoding, name);
	const own = typeof style === 'string' ? style : 'form';
	return { style: own, explode: typeof explode === 'boolean' ? explode : own === 'form', said: style !== undefined };
};
const JOINTS: Record<string, string> = { spaceDelimited: ' ', pipeDelimited: '|' };

const propertiesOf = (root: Root, schema: JsonObject): JsonObject => {
	const { properties } = resolve(root, schema, {}).schema;
	return isObject(properties) ? (properties as JsonObject) : {};
};
const wants = (root: Root, schema: Json | undefined, type: string): boolean =>
	schema !== undefined && typesOf(resolve(root, schema, undefined).schema).includes(type);
const itemsOf = (root: Root, schema: Json): Json => resolve(root, schema, []).schema.items ?? {};

/** A text as the value that the schema has for it; a text where nothing says otherwise. */
function typedBy(root: Root, schema: Json | undefined, given: Json): Json {
	if (typeof given !== 'string' || schema === undefined || hasExpression(given)) return given;
	const types = typesOf(resolve(root, schema, given).schema);
	if (types.length === 0 || types.includes('string')) return given;
	try {
		const value = parseJson(given);
		const fits =
			(typeof value === 'boolean' && types.includes('boolean')) ||
			(['number', 'bigint'].includes(typeof value) && (types.includes('number') || types.includes('integer')));
		return fits && writeJson(value) === given ? value : given;
	} catch {
		return given;
	}
}

/** The schema of `a[b][c]`, or of its items where it is a list; undefined where nothing is known. */
function schemaAt(root: Root, schema: Json, keys: readonly string[]): Json | undefined {
	let here: Json | undefined = schema;
	for (const key of keys) here = here === undefined ? undefined : propertiesOf(root, here as JsonObject)[key];
	return here !== undefined && wants(root, here, 'array') ? itemsOf(root, here) : here;
}

/** What is set in `a[b][c]`. */
function setDeep(target: JsonObject, keys: string[], value: Json): void {
	const [key = '', ...rest] = keys;
	if (rest.length === 0) {
		const before = target[key];
		target[key] = before === undefined ? value : [...(Array.isArray(before) ? before : [before]), value];
	} else setDeep((target[key] = isObject(target[key]) ? (target[key] as JsonObject) : {}), rest, value);
}

/** The fields of a form that are on, as one value. */
export function valueOfFields(params: readonly Param[], root: Root, encoding: JsonObject): JsonObject {
	const out: JsonObject = {};
	const properties = propertiesOf(root, root);
	const left = params.filter(({ off }) => !off);
	const taken = new Set<Param>();
	const take = (fits: (param: Param) => boolean): Param[] => {
		const found = left.filter((param) => !taken.has(param) && fits(param));
		for (const one of found) taken.add(one);
		return found;
	};
	for (const [name, schema] of Object.entries(properties)) {
		const { style, explode, said } = styleOf(encoding, name);
		if (style === 'deepObject') {
			const inside: JsonObject = {};
			const pieces = take((param) => param.name.startsWith(`${name}[`));
			for (const param of pieces) {
				const keys = [...param.name.slice(name.length).matchAll(/\[([^\]]*)\]/g)].map(([, key = '']) => key);
				if (keys.length > 0) setDeep(inside, keys, typedBy(root, schemaAt(root, schema, keys), param.value));
			}
			if (pieces.length > 0) out[name] = inside;
			continue;
		}
		if (said && explode && style === 'form' && wants(root, schema, 'object')) {
			const own = propertiesOf(root, schema as JsonObject);
			const pieces = take((param) => Object.hasOwn(own, param.name) && !Object.hasOwn(properties, param.name));
			if (pieces.length > 0)
				out[name] = Object.fromEntries(pieces.map((one) => [one.name, typedBy(root, own[one.name], one.value)]));
			continue;
		}
		const found = take((param) => param.name === name).map(({ value }) => value);
		const [first] = found;
		if (first === undefined) continue;
		if (wants(root, schema, 'array')) {
			const item = itemsOf(root, schema);
			const whole = found.length === 1 && typeof first === 'string' && !explode && !hasExpression(first);
			const list = whole ? first.split(lookUp(JOINTS, style) ?? ',') : found;
			out[name] = list.map((one) => typedBy(root, item, one));
		} else if (wants(root, schema, 'object') && typeof first === 'string') out[name] = jsonOr(first);
		else out[name] = typedBy(root, schema, found.at(-1)!);
	}
	for (const { name } of left.filter((param) => !taken.has(param))) {
		const all = take((param) => param.name === name).map(({ value }) => value);
		if (all.length > 0) out[name] = all.length === 1 ? all[0]! : all;
	}
	return out;
}

const jsonOr = (text: string): Json => {
	try {
		const value = parseJson(text);
		return isObject(value) ? (value as Json) : text;
	} catch {
		return text;
	}
};

/** A value as the fields of a form; those that were off stay, switched off. */
export function fieldsOf(value: JsonObject, before: readonly Param[], encoding: JsonObject): Param[] {
	const on = Object.entries(value).flatMap(([name, one]): Param[] => {
		const { style, explode, said } = styleOf(encoding, name);
		if (one !== null && typeof one === 'object' && (Array.isArray(one) || said)) {
			const as = { name, style, explode, in: 'query', media: '' } as Parameters<typeof styled>[0];
			// an empty list has no field
			return Array.isArray(one) && one.length === 0
				? []
				: styled(as, one).map(([key, text]) => ({ name: key, value: text, off: false }));
		}
		return [{ name, value: isObject(one) ? writeJson(one) : one, off: false }];
	});
	const names = new Set(on.map(({ name }) => name));
	return [...on, ...before.filter(({ name, off }) => off && !names.has(name))];
}

const CONTENTS = ['text', 'json', 'xml', 'file'] as const;
type Content = (typeof CONTENTS)[number];
const contentOf = (part: JsonObject): Content => CONTENTS.find((key) => Object.hasOwn(part, key)) ?? 'text';

const binaryAt = (root: Root, schema: Json | undefined): boolean =>
	schema !== undefined && isBinary(resolve(root, schema, undefined).schema);

/** The parts of a multipart body that are on, as one value; a file stands by its path. */
export function valueOfParts(parts: readonly JsonObject[], root: Root): JsonObject {
	const properties = propertiesOf(root, root);
	const out: JsonObject = {};
	for (const part of parts) {
		if (part.off === true || typeof part.name !== 'string') continue;
		const { name } = part;
		const schema = properties[name];
		const list = wants(root, schema, 'array');
		const content = contentOf(part);
		const given = part[content] ?? '';
		const value = content === 'text' ? typedBy(root, list ? itemsOf(root, schema!) : schema, given) : given;
		const before = out[name];
		if (before !== undefined) out[name] = [...(Array.isArray(before) ? before : [before]), value];
		else out[name] = list ? [value] : value;
	}
	return out;
}

/**
 * A value as the parts of a multipart body. What a part says beside its content (type, filename, headers) stays; parts that were
 * off stay, switched off.
 */
export function partsOfValue(
	value: JsonObject,
	before: readonly JsonObject[],
	root: Root,
	encoding: JsonObject
): JsonObject[] {
	const properties = propertiesOf(root, root);
	const left = before.filter(({ off }) => off !== true);
	const on = Object.entries(value).flatMap(([name, given]) => {
		const schema = properties[name];
		const list = Array.isArray(given) && (schema === undefined || wants(root, schema, 'array'));
		return (list ? (given as Json[]) : [given]).map((one): JsonObject => {
			const at = left.findIndex((part) => part.name === name);
			const [old] = at < 0 ? [] : left.splice(at, 1);
			const binary = binaryAt(root, list && schema !== undefined ? itemsOf(root, schema) : schema);
			const content = contentFor(one, binary, old);
			const [type] =
				typeof encodingOf(encoding, name).contentType === 'string'
					? String(encodingOf(encoding, name).contentType).split(',')
					: [];
			const own = type?.trim() && !type.includes('*') ? { type: type.trim() } : {};
			const rest = Object.fromEntries(
				Object.entries(old ?? { name, ...own }).filter(([key]) => !CONTENTS.includes(key as Content))
			);
			const { name: _, ...more } = rest;
			return { name, [content]: one, ...more };
		});
	});
	const names = new Set(on.map(({ name }) => name));
	return [...on, ...before.filter(({ name, off }) => off === true && !names.has(name as string))];
}

function contentFor(value: Json, binary: boolean, old: JsonObject | undefined): Content {
	if (value !== null && typeof value === 'object') return 'json';
	const was = old && contentOf(old);
	if (binary && typeof value === 'string' && (/^files\//.test(value) || hasExpression(value))) return 'file';
	if (typeof value === 'string' && (was === 'xml' || was === 'json')) return was;
	if (typeof value === 'string' && was === 'file' && !binary) return 'file';
	return 'text';
}
