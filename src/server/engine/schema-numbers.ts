import { lookUp } from '#core/model/lookup.ts';
import { isObject, same, type Json, type JsonObject } from '#core/model/json.ts';
import type { FuncKeywordDefinition, SchemaValidateFunction } from 'ajv';

/**
 * The compiler compares doubles. Values are given to it as doubles, and what they are exactly is remembered beside them;
 * what a schema says of integers from 2^53 on is moved to a keyword that compares exactly.
 */
export const EXACT = 'heron:exact';
const LARGE = 2 ** 53;
const isLarge = (value: unknown): value is number | bigint =>
	typeof value === 'bigint' || (typeof value === 'number' && Math.abs(value) >= LARGE);

/** Bounds by keyword: how they are said, and whether they hold. Bigints and numbers compare exactly. */
const BOUNDS: Record<string, { sign: string; holds(value: number | bigint, bound: number | bigint): boolean }> = {
	minimum: { sign: '>=', holds: (value, bound) => value >= bound },
	maximum: { sign: '<=', holds: (value, bound) => value <= bound },
	exclusiveMinimum: { sign: '>', holds: (value, bound) => value > bound },
	exclusiveMaximum: { sign: '<', holds: (value, bound) => value < bound }
};
/** The formats of integers (OpenAPI format registry). */
const RANGES: Record<string, [bigint, bigint]> = {
	int32: [-(2n ** 31n), 2n ** 31n - 1n],
	int64: [-(2n ** 63n), 2n ** 63n - 1n]
};

const holdsLarge = (value: Json | undefined): boolean =>
	typeof value === 'object' && value !== null ? Object.values(value).some(holdsLarge) : isLarge(value);
const holdsBigint = (value: unknown): boolean =>
	typeof value === 'object' && value !== null ? Object.values(value).some(holdsBigint) : typeof value === 'bigint';
/** Data as doubles. */
const asDoubles = (value: Json): Json =>
	typeof value === 'bigint'
		? Number(value)
		: Array.isArray(value)
			? value.map(asDoubles)
			: isObject(value)
				? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, asDoubles(one)]))
				: value;

/** One schema, without what lies in it, so that the compiler judges its numbers rightly. */
export function exactly(schema: JsonObject): JsonObject {
	const out: JsonObject = {};
	const exact: JsonObject = {};
	for (const [key, value] of Object.entries(schema)) {
		if (Object.hasOwn(BOUNDS, key) && isLarge(value)) {
			// up to draft 4 a flag beside it makes a bound exclusive
			const flag = `exclusive${key[0]!.toUpperCase()}${key.slice(1)}`;
			exact[schema[flag] === true ? flag : key] = value;
		} else if (typeof value === 'boolean' && /^exclusiveM(in|ax)imum$/.test(key)) {
			if (!isLarge(schema[key.slice('exclusive'.length).toLowerCase()])) out[key] = value;
		} else if ((key === 'const' || key === 'enum') && holdsLarge(value)) exact[key] = value;
		else if (key === 'format' && typeof value === 'string' && Object.hasOwn(RANGES, value)) exact[key] = value;
		else out[key] = typeof value === 'bigint' || key === 'default' || key === 'examples' ? asDoubles(value) : value;
	}
	return Object.keys(exact).length > 0 ? { ...out, [EXACT]: exact } : out;
}

/** What numbers of a value are exactly, where a double is not. */
export class ExactNumbers {
	readonly #at = new WeakMap<object, Map<string, bigint>>();
	readonly #root: bigint | undefined;
	readonly #any: boolean;
	/** The value as doubles. */
	readonly value: unknown;

	constructor(value: unknown) {
		this.#any = holdsBigint(value);
		const copy = (one: unknown): unknown => {
			if (typeof one !== 'object' || one === null) return one;
			const out: Record<string, unknown> | unknown[] = Array.isArray(one) ? [] : {};
			for (const [key, part] of Object.entries(one)) {
				const plain = typeof part === 'bigint' ? Number(part) : copy(part);
				// a member that is called __proto__ is a member like any other
				Object.defineProperty(out, key, { value: plain, writable: true, enumerable: true, configurable: true });
				if (typeof part !== 'bigint') continue;
				const places = this.#at.get(out) ?? new Map<string, bigint>();
				this.#at.set(out, places.set(key, part));
			}
			return out;
		};
		this.#root = typeof value === 'bigint' ? value : undefined;
		this.value = typeof value === 'bigint' ? Number(value) : this.#any ? copy(value) : value;
	}

	/** A part of the value, exactly. */
	of(part: unknown, parent?: object, key?: string | number): Json {
		if (!this.#any) return part as Json;
		if (typeof part === 'number')
			return (typeof parent === 'object' ? this.#at.get(parent)?.get(String(key)) : this.#root) ?? part;
		if (Array.isArray(part)) return part.map((one, index) => this.of(one, part, index));
		if (!isObject(part)) return part as Json;
		return Object.fromEntries(Object.entries(part).map(([name, one]) => [name, this.of(one, part, name)]));
	}
}

/** The keyword that compares exactly. @param now the numbers of the value that is being judged */
export function exactKeyword(now: () => ExactNumbers): FuncKeywordDefinition {
	const judge: SchemaValidateFunction = (wanted: JsonObject, data: unknown, _, context) => {
		const value = now().of(data, context?.parentData as object | undefined, context?.parentDataProperty);
		const faults = Object.entries(wanted).flatMap(([key, one]) => {
			const message = faultOf(key, one, value);
			return message === undefined
				? []
				: [{ keyword: key, message, params: { allowedValue: one, allowedValues: one } }];
		});
		judge.errors = faults;
		return faults.length === 0;
	};
	return { keyword: EXACT, schemaType: 'object', errors: true, validate: judge };
}

function faultOf(keyword: string, wanted: Json, value: Json): string | undefined {
	if (keyword === 'const') return same(value, wanted) ? undefined : 'must be equal to constant';
	if (keyword === 'enum')
		return (wanted as Json[]).some((one) => same(value, one))
			? undefined
			: 'must be equal to one of the allowed values';
	if (typeof value !== 'number' && typeof value !== 'bigint') return undefined;
	if (keyword === 'format') {
		const [least, most] = lookUp(RANGES, String(wanted))!;
		const whole = typeof value === 'bigint' || Number.isInteger(value);
		return whole && value >= least && value <= most
			? undefined
			: `must match format "${String(wanted)}", a whole number from ${least} to ${most}`;
	}
	const { sign, holds } = lookUp(BOUNDS, keyword)!;
	return holds(value, wanted as number | bigint) ? undefined : `must be ${sign} ${String(wanted)}`;
}
