import { parseJson, writeJson } from '#core/model/json.ts';
import { show, type SchemaByItself, type SchemaFault } from '#core/checks/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import type { JsonObject } from '#core/model/json.ts';
import { isMultipleOf } from '#core/values/index.ts';
import { _, str, type FuncKeywordDefinition, type SchemaValidateFunction } from 'ajv';
import type { AnySchemaObject, ErrorObject, Format, Options, ValidateFunction } from 'ajv';
import { posix } from 'node:path';
import { shapeFault } from './schema-shape.ts';
import { exactKeyword, ExactNumbers } from './schema-numbers.ts';
import { schemaPattern } from './schema-patterns.ts';
import { createTidy } from './schema-tidy.ts';

type ReadFile = (path: string) => Uint8Array | undefined;
export type ValidateJson = (value: unknown, schema: string | SchemaByItself) => Promise<SchemaFault[]>;

const FAULTS = 200;
const PREFIX = 'project:///';
const ENDLESS = 'it refers to itself without end, or it and the value are nested too deep';

/** Patterns of schemas run in bounded time. The text of the pattern is what the compiler tells them apart by. */
const bounded = Object.assign(
	(source: string) => {
		const pattern = schemaPattern(source);
		return { test: (text: string) => pattern.test(text), toString: () => source };
	},
	{ code: 'bounded' }
) as unknown as NonNullable<NonNullable<Options['code']>['regExp']>;

/** Which draft a schema is written in; without $schema the newest. */
const draftOf = ({ $schema }: AnySchemaObject): string =>
	/draft-0?([467])|(2019-09|2020-12)/
		.exec(String($schema ?? ''))
		?.slice(1)
		.find(Boolean) ?? '2020-12';

/** Whether $schema names the meta-schema of the draft, by http or https, or leaves it open. */
const isOfDraft = ({ $schema }: AnySchemaObject, draft: string): boolean =>
	$schema === undefined ||
	(draftOf({ $schema }) === draft && /^https?:\/\/json-schema\.org\/([\w/-]+\/)?schema#?$/.test(String($schema)));
const metaOf = (draft: string): string =>
	/^\d$/.test(draft)
		? `http://json-schema.org/draft-0${draft}/schema#`
		: `https://json-schema.org/draft/${draft}/schema`;

interface Compiler {
	compileAsync(schema: AnySchemaObject): Promise<ValidateFunction>;
	/** @throws Error in words for what the meta-schema of the draft refuses */
	validateSchema(schema: AnySchemaObject, throws: true): unknown;
	addMetaSchema(schema: unknown): void;
	addFormat(name: string, format: Format): unknown;
	removeKeyword(name: string): unknown;
	addKeyword(definition: FuncKeywordDefinition): unknown;
}

/** What holds schemas themselves against their draft. A meta-schema is compiled once: that takes longer than most schemas. */
const judges = new Map<string, Promise<Compiler>>();
function judgeOf(draft: string): Promise<Compiler> {
	const made = judges.get(draft) ?? compiler(draft, {}, () => new ExactNumbers(undefined));
	judges.set(draft, made);
	return made;
}

/** A compiler of a draft, loaded when first needed: each is a part of its own. */
async function compiler(draft: string, more: Options, exact: () => ExactNumbers): Promise<Compiler> {
	const options: Options = {
		...more,
		allErrors: true,
		strict: false,
		code: { regExp: bounded },
		logger: false,
		ownProperties: true
	};
	const [{ addAllFormats }, instance] = await Promise.all([import('./schema-formats.ts'), make()]);
	addAllFormats(instance);
	return instance;

	async function make() {
		if (draft === '4') return made((await import('ajv-draft-04')).default);
		if (draft === '2019-09') return made((await import('ajv/dist/2019.js')).default);
		if (draft === '2020-12') return made((await import('ajv/dist/2020.js')).default);
		const ajv = made((await import('ajv')).default);
		if (draft === '6') {
			const { default: meta } = await import('ajv/dist/refs/json-schema-draft-06.json', { with: { type: 'json' } });
			ajv.addMetaSchema(meta);
		}
		return ajv;
	}
	function made(found: unknown) {
		// the compiler divides doubles, by which 19.99 is no multiple of 0.01
		const Ajv = ((found as { default?: unknown }).default ?? found) as new (options: Options) => Compiler;
		const instance = new Ajv(options);
		instance.removeKeyword('multipleOf');
		// each item with each other one takes minutes for some ten thousand
		instance.removeKeyword('uniqueItems');
		const unique: SchemaValidateFunction = (wanted: boolean, list: unknown[]) => {
			const twice = wanted ? sameItems(exact().of(list) as unknown[]) : undefined;
			if (twice)
				unique.errors = [
					{
						keyword: 'uniqueItems',
						message: `must NOT have duplicate items (items ## ${twice[0]} and ${twice[1]} are identical)`,
						params: { i: twice[1], j: twice[0] }
					}
				];
			return twice === undefined;
		};
		instance.addKeyword({
			keyword: 'uniqueItems',
			type: 'array',
			schemaType: 'boolean',
			errors: true,
			validate: unique
		});
		instance.addKeyword({
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
		instance.addKeyword(exactKeyword(exact));
		return instance;
	}
}

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

/** Validates by JSON Schema; what a schema refers to is read from the project, and from nowhere else. */
export function createSchemas(readFile: ReadFile): ValidateJson {
	const schemas = new Schemas(readFile);
	return (value, given) => schemas.validate(value, given);
}

/** Schemas of a project, compiled when they are asked for. */
class Schemas {
	readonly #readFile: ReadFile;
	readonly #byFile = new Map<string, Promise<ValidateFunction>>();
	readonly #byItself = new WeakMap<JsonObject, Promise<ValidateFunction>>();
	/** The numbers of the value that is judged now. */
	#numbers = new ExactNumbers(undefined);

	constructor(readFile: ReadFile) {
		this.#readFile = readFile;
	}

	/** @throws HeronError file.missing, schema.wrong */
	async validate(value: unknown, given: string | SchemaByItself): Promise<SchemaFault[]> {
		const validate = await this.#validatorOf(given);
		let fits: boolean;
		try {
			this.#numbers = new ExactNumbers(value);
			fits = validate(this.#numbers.value) as boolean;
		} catch (cause) {
			const file = typeof given === 'string' ? given : given.name;
			if (cause instanceof RangeError) throw new HeronError('schema.wrong', { file, detail: ENDLESS }, { cause });
			throw cause;
		}
		if (fits) return [];
		const faults = validate.errors ?? [];
		// that `then` fails is said by what fails in it
		const own = faults.filter(({ keyword }) => keyword !== 'if');
		return (own.length > 0 ? own : faults).slice(0, FAULTS).map((error) => faultOf(error, value));
	}

	#validatorOf(given: string | SchemaByItself): Promise<ValidateFunction> {
		const found = typeof given === 'string' ? this.#byFile.get(given) : this.#byItself.get(given.schema);
		if (found) return found;
		if (typeof given === 'string') {
			const made = this.#compile(given, () => this.#read(given));
			this.#byFile.set(given, made);
			return made;
		}
		const made = this.#compile(given.name, () => given.schema);
		this.#byItself.set(given.schema, made);
		return made;
	}

	#read(file: string): AnySchemaObject {
		const bytes = this.#readFile(file);
		if (!bytes) throw new HeronError('file.missing', { file });
		let value: unknown;
		try {
			value = parseJson(new TextDecoder().decode(bytes));
		} catch (cause) {
			throw new HeronError('schema.wrong', { file, detail: textOf(cause) }, { cause });
		}
		if (typeof value === 'boolean') return value ? {} : { not: {} };
		if (typeof value !== 'object' || value === null || Array.isArray(value))
			throw new HeronError('schema.wrong', { file, detail: 'it is neither an object nor true or false' });
		return value as AnySchemaObject;
	}

	/** @param file where the schema is, or what it is called when it is no file */
	async #compile(file: string, given: () => AnySchemaObject): Promise<ValidateFunction> {
		const draft = draftOf(given());
		const tidy = createTidy(draft);
		// one by a meta-schema of the project is held against that by the compiler
		const judge = isOfDraft(given(), draft) ? await judgeOf(draft) : undefined;
		const tidied = (one: AnySchemaObject): AnySchemaObject => {
			const fault = shapeFault(one as JsonObject);
			if (fault !== undefined) throw new HeronError('schema.wrong', { file, detail: fault });
			const schema: AnySchemaObject = tidy.schema(one as JsonObject);
			if (!judge || !isOfDraft(schema, draft)) return schema;
			judge.validateSchema({ ...schema, $schema: metaOf(draft) }, true);
			delete schema.$schema;
			return schema;
		};
		const loadSchema = async (uri: string): Promise<AnySchemaObject> => tidied(this.#read(this.#pathOf(uri, file)));
		try {
			const schema = tidied(given());
			const ajv = await compiler(draft, { loadSchema, validateSchema: !judge }, () => this.#numbers);
			const key = draft === '4' ? 'id' : '$id';
			const compiled = await ajv.compileAsync(
				schema[key] === undefined ? { ...schema, [key]: PREFIX + encodeURI(file).replaceAll('#', '%23') } : schema
			);
			tidy.settle();
			return compiled;
		} catch (error) {
			if (error instanceof HeronError) throw error;
			const detail = error instanceof RangeError ? ENDLESS : textOf(error);
			throw new HeronError('schema.wrong', { file, detail }, { cause: error });
		}
	}

	/** The file that an address in a schema of another file means. @throws HeronError schema.wrong where there is none */
	#pathOf(uri: string, file: string): string {
		const plain = uri.split('#')[0]!;
		// what bears an address of its own lies beside the schema, under the last part of that address
		const name = decodeURIComponent(new URL(plain, PREFIX).pathname.split('/').pop() ?? '');
		const paths = plain.startsWith(PREFIX)
			? [decodeURIComponent(plain.slice(PREFIX.length))]
			: [name, `${name}.json`].map((one) => posix.join(posix.dirname(file), one));
		const found = paths.find((path) => this.#readFile(path) !== undefined);
		if (found) return found;
		const detail = `it refers to ${plain.replace(PREFIX, '')}, which is not in the project`;
		throw new HeronError('schema.wrong', { file, detail });
	}
}

/** Keywords that say what a value itself has to be: what it is instead is said, too. */
const OF_THE_VALUE = new Set(
	'type const enum format pattern minimum maximum exclusiveMinimum exclusiveMaximum multipleOf minLength maxLength'.split(
		' '
	)
);
const SHOWN = 60;

function faultOf({ instancePath, message = 'does not fit', params, keyword }: ErrorObject, root: unknown): SchemaFault {
	const path: (string | number)[] = [];
	let at = root;
	for (const part of instancePath.split('/').slice(1)) {
		const key = part.replace(/~1/g, '/').replace(/~0/g, '~');
		path.push(Array.isArray(at) ? Number(key) : key);
		at = (at as Record<string, unknown> | undefined)?.[key];
	}
	const is = OF_THE_VALUE.has(keyword) ? `, and is ${show(at, SHOWN)}` : '';
	const given = params as Record<string, unknown>;
	const more =
		keyword === 'additionalProperties' || keyword === 'unevaluatedProperties'
			? `: ${String(given.additionalProperty ?? given.unevaluatedProperty)}`
			: keyword === 'enum'
				? `: ${writeJson(given.allowedValues)}`
				: keyword === 'const'
					? `: ${writeJson(given.allowedValue)}`
					: '';
	return { message: message + more + is, path };
}
