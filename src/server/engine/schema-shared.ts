import { isObject, type JsonObject } from '#core/model/json.ts';
import { unescapeAddress } from '#core/values/index.ts';
import type { FuncKeywordDefinition, ValidateFunction } from 'ajv';
import type { DataValidateFunction, DataValidationCxt } from 'ajv/dist/types/index.js';
import { compilerOf, type Compiler } from './schema-compiler.ts';
import type { ExactNumbers } from './schema-numbers.ts';
import { shapeFault } from './schema-shape.ts';
import { createTidy, mapSchemas } from './schema-tidy.ts';

const DRAFT = '2020-12';
/** The keyword by which one refers to another: the compiler would compile all that a `$ref` leads to, one within the other. */
const SHARED = 'x-heron-shared';

/** What a schema can say of what lies around it: such a one is compiled by itself. */
const OF_THE_WHOLE =
	/^(\$(id|schema|anchor|dynamicRef|dynamicAnchor|recursiveRef|recursiveAnchor|vocabulary)|unevaluated(Properties|Items))$/;

/**
 * Schemas of 2020-12 that refer to no file, and have the same under the same names in their $defs: what a hundred operations
 * of a definition refer to is compiled once, and only when a value comes that far. They are made by what makes nothing but
 * schemas, and are not held against their meta-schema.
 */
export class SharedSchemas {
	readonly #numbers: () => ExactNumbers;
	/** By their names in $defs. */
	readonly #known = new Map<string, JsonObject | boolean>();
	readonly #validators = new Map<string, ValidateFunction>();
	#compiler: Promise<Compiler> | undefined;

	/** @param numbers those of the value that is judged at the time */
	constructor(numbers: () => ExactNumbers) {
		this.#numbers = numbers;
	}

	/** @returns undefined for one that has to be compiled by itself. @throws Error in words */
	async compile(schema: JsonObject): Promise<ValidateFunction | undefined> {
		const compiler = await (this.#compiler ??= this.#open());
		const fresh = this.#fresh(schema);
		if (speaksOfTheWhole(fresh)) return undefined;
		// what is known leads to nothing that is new
		const fault = shapeFault(fresh);
		if (fault !== undefined) throw new Error(fault);
		const { $defs = {}, ...top } = mapSchemas(createTidy(DRAFT).schema(fresh), linked);
		for (const [name, one] of Object.entries($defs as Record<string, JsonObject | boolean>)) this.#known.set(name, one);
		return compiler.compile(top);
	}

	async #open(): Promise<Compiler> {
		const compiler = await compilerOf(DRAFT, { validateSchema: false }, this.#numbers);
		compiler.addKeyword(this.#keyword(compiler));
		return compiler;
	}

	#keyword(compiler: Compiler): FuncKeywordDefinition {
		const compile = (name: string): DataValidateFunction => {
			const judge: DataValidateFunction = (data: unknown, context?: DataValidationCxt) => {
				const validate = this.#validators.get(name) ?? compiler.compile(this.#known.get(name) ?? true);
				this.#validators.set(name, validate);
				const fits = validate(data, context) as boolean;
				judge.errors = validate.errors ?? [];
				return fits;
			};
			return judge;
		};
		return { keyword: SHARED, schemaType: 'string', errors: 'full', compile };
	}

	/** A schema with those of its $defs that are not known. */
	#fresh({ $defs, ...top }: JsonObject): JsonObject {
		if (!isObject($defs)) return top;
		return {
			...top,
			$defs: Object.fromEntries(Object.entries($defs as JsonObject).filter(([name]) => !this.#known.has(name)))
		};
	}
}

/** A schema that refers to another one by the keyword for that. */
function linked(schema: JsonObject): JsonObject {
	const { $ref, ...rest } = schema;
	if (typeof $ref !== 'string') return schema;
	const name = unescapeAddress($ref.replace(/^#\/\$defs\//, ''))
		.replace(/~1/g, '/')
		.replace(/~0/g, '~');
	return { ...rest, [SHARED]: name };
}

function speaksOfTheWhole(schema: JsonObject): boolean {
	const waiting: unknown[] = [schema];
	for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
		if (typeof next === 'object' && next !== null)
			for (const [key, value] of Object.entries(next)) {
				if (OF_THE_WHOLE.test(key)) return true;
				waiting.push(value);
			}
	return false;
}
