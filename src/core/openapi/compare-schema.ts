import { unescapeAddress } from '../values/index.ts';
import { canonical } from '../diff/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';

/** breaking: who called rightly before may fail now; careful: may, by how they read it; harmless: nobody notices. */
export const LEVELS = ['breaking', 'careful', 'harmless'] as const;
/** How much a change matters to who calls. */
export type Level = (typeof LEVELS)[number];

/** What is another one in a schema, and what that means for who sends or receives its values. */
export interface SchemaChange {
	level: Level;
	/** The rule by which it is judged, a word or two. */
	rule: string;
	/** Where in the value: `$.nights`, empty for the value itself. */
	place: string;
	text: string;
}

/** sent: callers write the values; received: callers read them. */
export type Direction = 'sent' | 'received';

const asList = (value: Json | undefined): Json[] => (Array.isArray(value) ? value : []);
const keysIn = (value: Json | undefined): string[] => (isObject(value) ? Object.keys(value) : []);

/** The types that a schema allows; undefined for any. */
function typesOf(schema: JsonObject): Set<string> | undefined {
	if (typeof schema.type === 'string') return new Set([schema.type]);
	return Array.isArray(schema.type) ? new Set(schema.type.map(String)) : undefined;
}
const allows = (types: ReadonlySet<string>, type: string): boolean =>
	types.has(type) || (type === 'integer' && types.has('number'));

/** Bounds of which a higher number allows less, and of which it allows more. */
const LOWER = ['minimum', 'exclusiveMinimum', 'minLength', 'minItems', 'minProperties'];
const UPPER = ['maximum', 'exclusiveMaximum', 'maxLength', 'maxItems', 'maxProperties'];
const SHOWN = 60;
const shown = (value: Json | undefined): string => {
	const text = JSON.stringify(value) ?? 'none';
	return text.length > SHOWN ? `${text.slice(0, SHOWN)}…` : text;
};

/** Deeper or further than that no schema is followed that people wrote. */
const DEEPEST = 40;
const MOST = 20_000;

/**
 * What is different between two schemas, as JSON Schema by itself with its $defs.
 * @param direction whether callers send or receive what they describe
 */
export function compareSchemas(before: JsonObject, after: JsonObject, direction: Direction): SchemaChange[] {
	const found: SchemaChange[] = [];
	const seen = new Set<string>();
	let steps = 0;
	const tell = (level: Level, rule: string, place: string, text: string): void =>
		void found.push({ level, rule, place, text });
	/** Fewer values are allowed than before: who sends them breaks, who receives them does not notice. */
	const narrower = (rule: string, place: string, text: string) =>
		tell(direction === 'sent' ? 'breaking' : 'harmless', rule, place, text);
	/** More values are allowed than before. */
	const wider = (rule: string, place: string, text: string) =>
		tell(direction === 'sent' ? 'harmless' : 'careful', rule, place, text);

	const resolved = (given: Json, defs: Json | undefined): { schema: JsonObject | boolean; key: string } => {
		let here = given;
		let key = '';
		for (let hops = 0; isObject(here) && typeof here.$ref === 'string' && hops < DEEPEST; hops++) {
			key = here.$ref;
			const name = decodeName(key);
			const next: Json | undefined = isObject(defs) && Object.hasOwn(defs, name) ? (defs[name] as Json) : undefined;
			if (next === undefined) return { schema: true, key };
			const { $ref: _, ...beside } = here as JsonObject;
			void _;
			here = Object.keys(beside).length > 0 && isObject(next) ? { ...(next as JsonObject), ...beside } : next;
		}
		return { schema: isObject(here) ? (here as JsonObject) : here !== false, key };
	};
	/** A schema with what all of its allOf say; where two say the same keyword the last one counts. */
	const flat = (schema: JsonObject, defs: Json | undefined, depth = 0): JsonObject => {
		if (!Array.isArray(schema.allOf) || depth > DEEPEST) return schema;
		let out: JsonObject = {};
		for (const part of [...schema.allOf, { ...schema, allOf: null }]) {
			const { schema: one } = resolved(part, defs);
			if (!isObject(one)) continue;
			const { allOf, properties, required, ...rest } = flat(one as JsonObject, defs, depth + 1);
			void allOf;
			out = {
				...out,
				...rest,
				...(isObject(properties) || out.properties
					? { properties: { ...(out.properties as JsonObject), ...(properties as JsonObject) } }
					: {}),
				...(required || out.required ? { required: [...asList(out.required), ...asList(required)] } : {})
			};
		}
		return out;
	};

	const look = (a: Json, b: Json, place: string, depth: number): void => {
		if (depth > DEEPEST || ++steps > MOST) return;
		const [was, is] = [resolved(a, before.$defs), resolved(b, after.$defs)];
		const pair = `${was.key}|${is.key}|${was.key && is.key ? '' : place}`;
		if (was.key && is.key) {
			if (seen.has(pair)) return;
			seen.add(pair);
		}
		if (!isObject(was.schema) || !isObject(is.schema)) {
			const open = (schema: JsonObject | boolean) =>
				schema === true || (isObject(schema) && Object.keys(schema).every((key) => key === '$defs'));
			if (open(was.schema) === open(is.schema)) return;
			if (open(was.schema)) narrower('narrower', place, 'anything was allowed, and is not any more');
			else wider('wider', place, 'anything is allowed now');
			return;
		}
		compare(flat(was.schema, before.$defs), flat(is.schema, after.$defs), place, depth);
	};

	const compare = (a: JsonObject, b: JsonObject, place: string, depth: number): void => {
		const [wasTypes, isTypes] = [typesOf(a), typesOf(b)];
		if (wasTypes || isTypes) {
			const gone = [...(wasTypes ?? [])].filter((type) => isTypes && !allows(isTypes, type));
			const come = [...(isTypes ?? [])].filter((type) => wasTypes && !allows(wasTypes, type));
			// a value of another type breaks whoever reads it, too
			if (wasTypes && isTypes && gone.length === wasTypes.size && come.length === isTypes.size)
				return void tell(
					'breaking',
					'type',
					place,
					`was ${[...wasTypes].join(' or ')}, is ${[...isTypes].join(' or ')}`
				);
			if (gone.length > 0 || (!wasTypes && isTypes))
				narrower(
					'type',
					place,
					wasTypes ? `${gone.join(' and ')} is not allowed any more` : `must be ${[...isTypes!].join(' or ')}`
				);
			if (come.length > 0 || (wasTypes && !isTypes)) {
				const text = isTypes ? `may be ${come.join(' or ')} as well` : 'may be of any type';
				wider('type', place, text);
			}
		}
		enums(a, b, place);
		for (const key of [...LOWER, ...UPPER]) bound(a, b, key, place);
		pattern(a, b, place);
		const formats = [a.format, b.format].map((one) => (typeof one === 'string' ? one : ''));
		if (formats[0] !== formats[1]) {
			const text = `format ${formats[0] || 'none'} → ${formats[1] || 'none'}`;
			if (formats[1] && direction === 'sent') tell(formats[0] ? 'breaking' : 'careful', 'format', place, text);
			else tell(direction === 'sent' ? 'harmless' : 'careful', 'format', place, text);
		}
		if (a.multipleOf !== b.multipleOf) {
			if (b.multipleOf !== undefined) narrower('multipleOf', place, `must be a multiple of ${shown(b.multipleOf)}`);
			else wider('multipleOf', place, 'need not be a multiple any more');
		}
		if ((a.uniqueItems === true) !== (b.uniqueItems === true)) {
			if (b.uniqueItems === true) narrower('uniqueItems', place, 'items must differ');
			else wider('uniqueItems', place, 'items may be the same');
		}
		properties(a, b, place, depth);
		if (a.items !== undefined && b.items !== undefined) look(a.items, b.items, `${place}[*]`, depth + 1);
		else if (b.items !== undefined && !Array.isArray(b.items))
			narrower('items', `${place}[*]`, 'items have a schema now');
		else if (a.items !== undefined) wider('items', `${place}[*]`, 'items may be anything');
		for (const key of ['oneOf', 'anyOf'] as const) branches(asList(a[key]), asList(b[key]), key, place, depth);
	};

	const enums = (a: JsonObject, b: JsonObject, place: string): void => {
		const valuesOf = ({ enum: list, const: only }: JsonObject): Json[] | undefined =>
			only !== undefined ? [only] : Array.isArray(list) ? list : undefined;
		const [was, is] = [valuesOf(a), valuesOf(b)];
		if (!was && !is) return;
		if (!was) return narrower('enum', place, `only ${shown(is)} is allowed`);
		if (!is) return wider('enum', place, 'is not limited to certain values any more');
		const [known, now] = [new Set(was.map((one) => canonical(one))), new Set(is.map((one) => canonical(one)))];
		const gone = was.filter((one) => !now.has(canonical(one)));
		const come = is.filter((one) => !known.has(canonical(one)));
		if (gone.length > 0) narrower('enum', place, `${gone.map(shown).join(', ')} is not allowed any more`);
		if (come.length > 0) wider('enum', place, `may be ${come.map(shown).join(', ')} as well`);
	};
	const bound = (a: JsonObject, b: JsonObject, key: string, place: string): void => {
		const number = (value: Json | undefined) =>
			value === undefined || typeof value === 'boolean' ? undefined : Number(value);
		const [was, is] = [number(a[key]), number(b[key])];
		if (was === is) return;
		const text = `${key} ${was ?? 'none'} → ${is ?? 'none'}`;
		const tighter = was === undefined || (is !== undefined && (LOWER.includes(key) ? is > was : is < was));
		if (tighter) narrower(key, place, text);
		else wider(key, place, text);
	};
	const pattern = (a: JsonObject, b: JsonObject, place: string): void => {
		if (a.pattern === b.pattern) return;
		const text = `pattern ${shown(a.pattern)} → ${shown(b.pattern)}`;
		if (b.pattern === undefined) wider('pattern', place, text);
		else if (a.pattern === undefined) narrower('pattern', place, text);
		// which of two patterns allows more cannot be told
		else tell('careful', 'pattern', place, text);
	};
	const properties = (a: JsonObject, b: JsonObject, place: string, depth: number): void => {
		const here = place || '$';
		const [was, is] = [a.properties as JsonObject | undefined, b.properties as JsonObject | undefined];
		const [needed, needs] = [new Set(asList(a.required).map(String)), new Set(asList(b.required).map(String))];
		for (const name of keysIn(b.properties)) {
			const at = `${here}.${name}`;
			if (isObject(was) && Object.hasOwn(was, name)) look((was as JsonObject)[name]!, is![name]!, at, depth + 1);
			else if (direction === 'received') tell('harmless', 'property added', at, 'is there now');
			else if (!needs.has(name)) {
				// what was anything so far has a schema now
				const open = a.additionalProperties !== false;
				tell('harmless', 'property added', at, open ? 'may be sent, and has a schema now' : 'may be sent');
			}
		}
		for (const name of keysIn(a.properties)) {
			if (isObject(is) && Object.hasOwn(is, name)) continue;
			const at = `${here}.${name}`;
			if (direction === 'received') tell('breaking', 'property removed', at, 'is not there any more');
			else if (b.additionalProperties === false) tell('breaking', 'property removed', at, 'must not be sent any more');
			else tell('careful', 'property removed', at, 'is not known any more');
		}
		for (const name of needs)
			if (!needed.has(name)) {
				const at = `${here}.${name}`;
				if (direction === 'sent') tell('breaking', 'required', at, 'must be sent');
				else tell('harmless', 'required', at, 'is always there');
			}
		for (const name of needed)
			if (!needs.has(name) && (direction === 'sent' || (isObject(is) && Object.hasOwn(is, name)))) {
				const at = `${here}.${name}`;
				if (direction === 'sent') tell('harmless', 'required', at, 'need not be sent');
				else tell('careful', 'required', at, 'may not be there');
			}
		const [wasMore, isMore] = [a.additionalProperties, b.additionalProperties];
		if (isObject(wasMore) && isObject(isMore)) look(wasMore, isMore, `${here}.*`, depth + 1);
		else if ((wasMore === false) !== (isMore === false)) {
			if (isMore === false) narrower('additionalProperties', place, 'nothing else may be there');
			else wider('additionalProperties', place, 'more may be there');
		}
	};
	const branches = (a: Json[], b: Json[], key: string, place: string, depth: number): void => {
		if (a.length === 0 && b.length === 0) return;
		if (a.length === 0) return narrower(key, place, 'must be one of several forms');
		if (b.length === 0) return wider(key, place, 'need not be one of several forms any more');
		const nameOf = (branch: Json): string =>
			isObject(branch) && typeof branch.$ref === 'string'
				? decodeName(branch.$ref).replace(/^\d+-/, '')
				: isObject(branch) && typeof branch.title === 'string'
					? branch.title
					: '';
		const left = new Set(b.map((_, index) => index));
		const pairs: [Json, Json][] = [];
		const alone: Json[] = [];
		a.forEach((branch, index) => {
			const name = nameOf(branch);
			const found = name
				? [...left].find((at) => nameOf(b[at]!) === name)
				: left.has(index) && !nameOf(b[index]!)
					? index
					: undefined;
			if (found === undefined) return void alone.push(branch);
			left.delete(found);
			pairs.push([branch, b[found]!]);
		});
		for (const branch of alone) narrower(key, place, `the form ${nameOf(branch) || 'without a name'} is gone`);
		for (const at of left) wider(key, place, `may have the form ${nameOf(b[at]!) || 'without a name'} as well`);
		for (const [x, y] of pairs) look(x, y, place, depth + 1);
	};

	look(before, after, '', 0);
	return found;
}

const decodeName = (reference: string): string => {
	const last = reference.split('/').pop() ?? '';
	try {
		return unescapeAddress(last).replace(/~1/g, '/').replace(/~0/g, '~');
	} catch {
		return last;
	}
};
