import { writeJson } from '#core/model/json.ts';
import { isMultipleOf } from '#core/values/index.ts';
import { _, str, type FuncKeywordDefinition, type SchemaValidateFunction } from 'ajv';
import type { AnySchemaObject, Format, Options, ValidateFunction } from 'ajv';
import { exactKeyword, ExactNumbers } from './schema-numbers.ts';
import { schemaPattern } from './schema-patterns.ts';

export interface Compiler {
	compileAsync(schema: AnySchemaObject): Promise<ValidateFunction>;
	compile(schema: AnySchemaObject | boolean): ValidateFunction;
	/** @throws Error in words for what the meta-schema of the draft refuses */
	validateSchema(schema: AnySchemaObject, throws: true): unknown;
	addMetaSchema(schema: unknown): void;
	addFormat(name: string, format: Format): unknown;
	removeKeyword(name: string): unknown;
	addKeyword(definition: FuncKeywordDefinition): unknown;
}

/** Which draft a schema is written in; without $schema the newest. */
export const draftOf = ({ $schema }: AnySchemaObject): string =>
	/draft-0?([467])|(2019-09|2020-12)/
		.exec(String($schema ?? ''))
		?.slice(1)
		.find(Boolean) ?? '2020-12';

/** Whether $schema names the meta-schema of the draft, by http or https, or leaves it open. */
export const isOfDraft = ({ $schema }: AnySchemaObject, draft: string): boolean =>
	$schema === undefined ||
	(draftOf({ $schema }) === draft && /^https?:\/\/json-schema\.org\/([\w/-]+\/)?schema#?$/.test(String($schema)));
const metaOf = (draft: string): string =>
	/^\d$/.test(draft)
		? `http://json-schema.org/draft-0${draft}/schema#`
		: `https://json-schema.org/draft/${draft}/schema`;

/** What holds schemas themselves against their draft. A meta-schema is compiled once: that takes longer than most schemas. */
const judges = new Map<string, Promise<Compiler>>();
/** Holds schemas against the meta-schema of a draft. @returns what throws an Error in words for one that does not fit */
export async function judgeOf(draft: string): Promise<(schema: AnySchemaObject) => void> {
	const made = judges.get(draft) ?? compilerOf(draft, {}, () => new ExactNumbers(undefined));
	judges.set(draft, made);
	const judge = await made;
	return (schema) => void judge.validateSchema({ ...schema, $schema: metaOf(draft) }, true);
}

/**
 * A compiler of a draft, loaded when first needed: each is a part of its own.
 * @param exact the numbers of the value that is judged at the time
 */
export async function compilerOf(draft: string, more: Options, exact: () => ExactNumbers): Promise<Compiler> {
	const [{ addAllFormats }, found] = await Promise.all([import('./schema-formats.ts'), classOf(draft)]);
	const Class = ((found as { default?: unknown }).default ?? found) as new (options: Options) => Compiler;
	const instance = new Class({
		...more,
		allErrors: true,
		strict: false,
		// most of what is compiled is run a few times
		code: { regExp: bounded, optimize: false },
		logger: false,
		ownProperties: true
	});
	if (draft === '6') {
		const { default: meta } = await import('ajv/dist/refs/json-schema-draft-06.json', { with: { type: 'json' } });
		instance.addMetaSchema(meta);
	}
	for (const own of [uniqueItems(exact), multipleOf(exact)]) {
		instance.removeKeyword(own.keyword as string);
		instance.addKeyword(own);
	}
	instance.addKeyword(exactKeyword(exact));
	addAllFormats(instance);
	return instance;
}

async function classOf(draft: string): Promise<unknown> {
	if (draft === '4') return (await import('ajv-draft-04')).default;
	if (draft === '2019-09') return (await import('ajv/dist/2019.js')).default;
	if (draft === '2020-12') return (await import('ajv/dist/2020.js')).default;
	return (await import('ajv')).default;
}

/** Patterns of schemas run in bounded time. The text of the pattern is what the compiler tells them apart by. */
const bounded = Object.assign(
	(source: string) => {
		const pattern = schemaPattern(source);
		return { test: (text: string) => pattern.test(text), toString: () => source };
	},
	{ code: 'bounded' }
) as unknown as NonNullable<NonNullable<Options['code']>['regExp']>;

/** The compiler holds each item against each other one: that takes minutes for some ten thousand. */
function uniqueItems(exact: () => ExactNumbers): FuncKeywordDefinition {
	const validate: SchemaValidateFunction = (wanted: boolean, list: unknown[]) => {
		const twice = wanted ? sameItems(exact().of(list) as unknown[]) : undefined;
		if (twice)
			validate.errors = [
				{
					keyword: 'uniqueItems',
					message: `must NOT have duplicate items (items ## ${twice[0]} and ${twice[1]} are identical)`,
					params: { i: twice[1], j: twice[0] }
				}
			];
		return twice === undefined;
	};
	return { keyword: 'uniqueItems', type: 'array', schemaType: 'boolean', errors: true, validate };
}

/** The compiler divides doubles, by which 19.99 is no multiple of 0.01. */
const multipleOf = (exact: () => ExactNumbers): FuncKeywordDefinition => ({
	keyword: 'multipleOf',
	type: 'number',
	schemaType: 'number',
	error: {
		message: ({ schemaCode }) => str`must be a multiple of ${schemaCode}`,
		params: ({ schemaCode }) => _`{multipleOf: ${schemaCode}}`
	},
	compile: (step: number) => (value: number, context) =>
		isMultipleOf(exact().of(value, context?.parentData, context?.parentDataProperty) as number | bigint, step)
});

/** The places of two items that are the same by value, whatever the order of their keys; or undefined. */
function sameItems(list: unknown[]): [number, number] | undefined {
	const seen = new Map<string, number>();
	const sorted = (value: unknown): unknown =>
		Array.isArray(value)
			? value.map(sorted)
			: typeof value === 'object' && value !== null
				? Object.fromEntries(
						Object.entries(value)
							.sort(([a], [b]) => (a < b ? -1 : 1))
							.map(([key, one]) => [key, sorted(one)])
					)
				: value;
	for (const [index, item] of list.entries()) {
		const key = writeJson(sorted(item));
		const before = seen.get(key);
		if (before !== undefined) return [before, index];
		seen.set(key, index);
	}
	return undefined;
}
