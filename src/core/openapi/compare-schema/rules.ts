import { canonical } from '../../diff/index.ts';
import type { Json, JsonObject } from '../../model/json.ts';
import { shown, type SchemaRule } from './findings.ts';

/** The types that a schema allows; undefined for any. */
function typesOf(schema: JsonObject): Set<string> | undefined {
	if (typeof schema.type === 'string') return new Set([schema.type]);
	return Array.isArray(schema.type) ? new Set(schema.type.map(String)) : undefined;
}
const allows = (types: ReadonlySet<string>, type: string): boolean =>
	types.has(type) || (type === 'integer' && types.has('number'));

/** Types: one that changed altogether breaks whoever reads it, too. */
export function typeRule(...[before, after, place, findings]: Parameters<SchemaRule>): 'another' | undefined {
	const [was, is] = [typesOf(before), typesOf(after)];
	if (!was && !is) return undefined;
	const gone = [...(was ?? [])].filter((type) => is && !allows(is, type));
	const come = [...(is ?? [])].filter((type) => was && !allows(was, type));
	if (was && is && gone.length === was.size && come.length === is.size) {
		findings.tell('breaking', 'type', place, `was ${[...was].join(' or ')}, is ${[...is].join(' or ')}`);
		return 'another';
	}
	if (gone.length > 0 || (!was && is)) {
		const text = was ? `${gone.join(' and ')} is not allowed any more` : `must be ${[...is!].join(' or ')}`;
		findings.narrower('type', place, text);
	}
	if (come.length > 0 || (was && !is))
		findings.wider('type', place, is ? `may be ${come.join(' or ')} as well` : 'may be of any type');
	return undefined;
}

/** The values that a schema lists; undefined for any. */
const valuesOf = ({ enum: list, const: only }: JsonObject): Json[] | undefined =>
	only !== undefined ? [only] : Array.isArray(list) ? list : undefined;

const enums: SchemaRule = (before, after, place, findings) => {
	const [was, is] = [valuesOf(before), valuesOf(after)];
	if (!was && !is) return;
	if (!was) return findings.narrower('enum', place, `only ${shown(is)} is allowed`);
	if (!is) return findings.wider('enum', place, 'is not limited to certain values any more');
	const [known, now] = [new Set(was.map((one) => canonical(one))), new Set(is.map((one) => canonical(one)))];
	const gone = was.filter((one) => !now.has(canonical(one)));
	const come = is.filter((one) => !known.has(canonical(one)));
	if (gone.length > 0) findings.narrower('enum', place, `${gone.map(shown).join(', ')} is not allowed any more`);
	if (come.length > 0) findings.wider('enum', place, `may be ${come.map(shown).join(', ')} as well`);
};

/** Bounds of which a higher number allows less, and of which it allows more. */
const LOWER = ['minimum', 'exclusiveMinimum', 'minLength', 'minItems', 'minProperties'];
const UPPER = ['maximum', 'exclusiveMaximum', 'maxLength', 'maxItems', 'maxProperties'];

const bound =
	(key: string): SchemaRule =>
	(before, after, place, findings) => {
		const number = (value: Json | undefined) =>
			typeof value === 'number' || typeof value === 'bigint' ? value : undefined;
		const [was, is] = [number(before[key]), number(after[key])];
		if (was === is) return;
		const text = `${key} ${was ?? 'none'} → ${is ?? 'none'}`;
		const tighter = was === undefined || (is !== undefined && (LOWER.includes(key) ? is > was : is < was));
		if (tighter) findings.narrower(key, place, text);
		else findings.wider(key, place, text);
	};

const pattern: SchemaRule = (before, after, place, findings) => {
	if (before.pattern === after.pattern) return;
	const text = `pattern ${shown(before.pattern)} → ${shown(after.pattern)}`;
	if (after.pattern === undefined) findings.wider('pattern', place, text);
	else if (before.pattern === undefined) findings.narrower('pattern', place, text);
	// which of two patterns allows more cannot be told
	else findings.tell('careful', 'pattern', place, text);
};

const format: SchemaRule = (before, after, place, findings) => {
	const [was, is] = [before.format, after.format].map((one) => (typeof one === 'string' ? one : ''));
	if (was === is) return;
	const text = `format ${was || 'none'} → ${is || 'none'}`;
	if (is && findings.direction === 'sent') findings.tell(was ? 'breaking' : 'careful', 'format', place, text);
	else findings.wider('format', place, text);
};

const multipleOf: SchemaRule = (before, after, place, findings) => {
	if (before.multipleOf === after.multipleOf) return;
	if (after.multipleOf === undefined) findings.wider('multipleOf', place, 'need not be a multiple any more');
	else findings.narrower('multipleOf', place, `must be a multiple of ${shown(after.multipleOf)}`);
};

const uniqueItems: SchemaRule = (before, after, place, findings) => {
	if ((before.uniqueItems === true) === (after.uniqueItems === true)) return;
	if (after.uniqueItems === true) findings.narrower('uniqueItems', place, 'items must differ');
	else findings.wider('uniqueItems', place, 'items may be the same');
};

/** Keywords that speak of a value by itself, in the order in which they are told. */
export const valueRules: readonly SchemaRule[] = [
	enums,
	...[...LOWER, ...UPPER].map(bound),
	pattern,
	format,
	multipleOf,
	uniqueItems
];
