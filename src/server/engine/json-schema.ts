import { parseJson, writeJson } from '#core/model/json.ts';
import { show, type SchemaByItself, type SchemaFault } from '#core/checks/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import type { JsonObject } from '#core/model/json.ts';
import type { AnySchemaObject, ErrorObject, ValidateFunction } from 'ajv';
import { posix } from 'node:path';
import { compilerOf, draftOf, isOfDraft, judgeOf } from './schema-compiler.ts';
import { shapeFault } from './schema-shape.ts';
import { ExactNumbers } from './schema-numbers.ts';
import { SharedSchemas } from './schema-shared.ts';
import { createTidy } from './schema-tidy.ts';

type ReadFile = (path: string) => Uint8Array | undefined;
export type ValidateJson = (value: unknown, schema: string | SchemaByItself) => Promise<SchemaFault[]>;

const FAULTS = 200;
const PREFIX = 'project:///';
const ENDLESS = 'it refers to itself without end, or it and the value are nested too deep';

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
	/** By what they share. */
	readonly #shared = new WeakMap<object, SharedSchemas>();
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
			// what a value leads to may be compiled only now
			throw wrong(file, cause);
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
		const made = this.#compileByItself(given);
		this.#byItself.set(given.schema, made);
		return made;
	}

	async #compileByItself({ name, schema, sharing }: SchemaByItself): Promise<ValidateFunction> {
		if (sharing) {
			const shared = this.#shared.get(sharing) ?? new SharedSchemas(() => this.#numbers);
			this.#shared.set(sharing, shared);
			const made = await inWords(name, () => shared.compile(schema));
			if (made) return made;
		}
		return this.#compile(name, () => schema);
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
			judge(schema);
			delete schema.$schema;
			return schema;
		};
		const loadSchema = async (uri: string): Promise<AnySchemaObject> => tidied(this.#read(this.#pathOf(uri, file)));
		return inWords(file, async () => {
			const schema = tidied(given());
			const ajv = await compilerOf(draft, { loadSchema, validateSchema: !judge }, () => this.#numbers);
			const key = draft === '4' ? 'id' : '$id';
			const compiled = await ajv.compileAsync(
				schema[key] === undefined ? { ...schema, [key]: PREFIX + encodeURI(file).replaceAll('#', '%23') } : schema
			);
			tidy.settle();
			return compiled;
		});
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

/** @param file what the schema is called. @throws HeronError schema.wrong for whatever is thrown of it */
async function inWords<T>(file: string, compile: () => Promise<T>): Promise<T> {
	try {
		return await compile();
	} catch (error) {
		throw wrong(file, error);
	}
}
function wrong(file: string, cause: unknown): HeronError {
	if (cause instanceof HeronError) return cause;
	const detail = cause instanceof RangeError ? ENDLESS : textOf(cause);
	return new HeronError('schema.wrong', { file, detail }, { cause });
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
