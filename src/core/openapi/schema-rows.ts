import { lookUp } from '../model/lookup.ts';
import { unescapeAddress } from '../values/index.ts';
import { counted } from '../messages.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { SchemaRow } from '../model/operation-view.ts';
import { shortened } from '../model/shortened.ts';
import { flatSchema } from './flat.ts';
import { CHOICES } from './schema-converter.ts';

const MOST = 400;
const DEEPEST = 8;

const WORDS: Record<string, string> = {
	string: 'text',
	integer: 'whole number',
	number: 'number',
	boolean: 'true or false',
	object: 'object',
	array: 'list',
	null: 'null'
};
const shown = (value: Json): string => {
	const text = typeof value === 'string' ? value : writeJson(value);
	return shortened(text, 60);
};

function typeWords(schema: JsonObject): string {
	const types = [schema.type ?? []].flat().map(String);
	const given =
		types.length > 0
			? types
			: schema.properties !== undefined
				? ['object']
				: schema.items !== undefined
					? ['array']
					: [];
	const words = given.map((type) => lookUp(WORDS, type) ?? type).join(' or ');
	const format = typeof schema.format === 'string' ? schema.format : '';
	return [words, format].filter(Boolean).join(', ');
}

function limitWords(schema: JsonObject): string {
	const out: string[] = [];
	const say = (key: string, words: (value: string) => string) => {
		if (schema[key] !== undefined) out.push(words(shown(schema[key])));
	};
	if ('const' in schema) out.push(`is ${shown(schema.const!)}`);
	if (Array.isArray(schema.enum))
		out.push(
			`one of ${schema.enum.slice(0, 12).map(shown).join(', ')}${schema.enum.length > 12 ? ` and ${schema.enum.length - 12} more` : ''}`
		);
	say('minimum', (value) => `from ${value}`);
	say('exclusiveMinimum', (value) => `more than ${value}`);
	say('maximum', (value) => `to ${value}`);
	say('exclusiveMaximum', (value) => `less than ${value}`);
	say('multipleOf', (value) => `a multiple of ${value}`);
	say('minLength', (value) => `${counted(Number(value), 'letter')} at least`);
	say('maxLength', (value) => `${counted(Number(value), 'letter')} at most`);
	say('pattern', (value) => `fits ${value}`);
	say('minItems', (value) => `${counted(Number(value), 'item')} at least`);
	say('maxItems', (value) => `${counted(Number(value), 'item')} at most`);
	if (schema.uniqueItems === true) out.push('each once');
	if (schema.additionalProperties === false) out.push('nothing else');
	say('default', (value) => `${value} when left out`);
	if (schema.deprecated === true) out.push('deprecated');
	return out.join('; ');
}

/** A schema by itself (`lazySchema`) as lines of a table, from the outside to the inside; what comes round is cut. */
export function schemaRows(root: JsonObject): SchemaRow[] {
	const rows: SchemaRow[] = [];
	const walk = (
		given: Json,
		at: Pick<SchemaRow, 'depth' | 'name' | 'required'> & { form?: true },
		above: ReadonlySet<string>
	): void => {
		if (rows.length >= MOST) return;
		const schema = isObject(given) ? (given as JsonObject) : {};
		const reference = typeof schema.$ref === 'string' ? schema.$ref : '';
		const here = flatSchema(root, schema);
		const seen = reference ? new Set([...above, reference]) : above;
		const row: SchemaRow = {
			...at,
			type: typeWords(here),
			limits: limitWords(here),
			doc: [here.title, here.description].find((one): one is string => typeof one === 'string' && one !== '') ?? ''
		};
		rows.push(row);
		if ((reference && above.has(reference)) || at.depth >= DEEPEST) {
			row.cut = true;
			return;
		}
		const depth = at.depth + 1;
		const required = new Set((Array.isArray(here.required) ? here.required : []).map(String));
		if (isObject(here.properties))
			for (const [name, one] of Object.entries(here.properties as JsonObject))
				if (one !== false) walk(one, { depth, name, required: required.has(name) }, seen);
		if (isObject(here.additionalProperties))
			walk(here.additionalProperties as Json, { depth, name: '{ }', required: false }, seen);
		if (isObject(here.items)) walk(here.items as Json, { depth, name: '[ ]', required: false }, seen);
		for (const one of Array.isArray(here.prefixItems) ? here.prefixItems : [])
			walk(one, { depth, name: '[ ]', required: true }, seen);
		const choices = Array.isArray(here[CHOICES]) ? (here[CHOICES] as Json[]) : [];
		for (const one of choices)
			if (isObject(one))
				walk(one.schema as Json, { depth, name: `${one.property}: ${one.value}`, required: false, form: true }, seen);
		if (choices.length === 0)
			for (const key of ['oneOf', 'anyOf'] as const)
				for (const [index, one] of (Array.isArray(here[key]) ? here[key] : []).entries())
					walk(one, { depth, name: nameOf(one, index), required: false, form: true }, seen);
	};
	walk(root, { depth: 0, name: '', required: true }, new Set());
	return rows;
}

function nameOf(given: Json, index: number): string {
	const reference = isObject(given) && typeof given.$ref === 'string' ? given.$ref : '';
	const name = unescapeAddress(reference.split('/').pop() ?? '').replace(/^\d+-/, '');
	const title = isObject(given) && typeof given.title === 'string' ? given.title : '';
	return title || name || `form ${index + 1}`;
}
