import { isObject, type JsonObject } from '#core/model/json.ts';
import type { ValidateFunction } from 'ajv';
import { compilerOf, type Compiler } from './schema-compiler.ts';
import type { ExactNumbers } from './schema-numbers.ts';
import { shapeFault } from './schema-shape.ts';
import { createTidy } from './schema-tidy.ts';

const DRAFT = '2020-12';
const ROOT = 'project:///shared';

/** What a schema can say of what lies around it: such a one is compiled by itself. */
const OF_THE_WHOLE =
	/^(\$(id|schema|anchor|dynamicRef|dynamicAnchor|recursiveRef|recursiveAnchor|vocabulary)|unevaluated(Properties|Items))$/;

/**
 * Schemas of 2020-12 that refer to no file, and have the same under the same names in their $defs: what a hundred operations
 * of a definition refer to is compiled once, and not a hundred times. They are made by what makes nothing but schemas, and
 * are not held against their meta-schema.
 */
export class SharedSchemas {
	readonly #numbers: () => ExactNumbers;
	/** Names in $defs that are in the compiler already. */
	readonly #known = new Set<string>();
	/** What the compiler looks references up in: it grows. */
	readonly #defs: JsonObject = {};
	readonly #tops: JsonObject = {};
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
		const { $defs = {}, ...top } = createTidy(DRAFT).schema(fresh);
		for (const [name, one] of Object.entries($defs as JsonObject)) {
			this.#defs[name] = one;
			this.#known.add(name);
		}
		const place = String(Object.keys(this.#tops).length);
		this.#tops[place] = top;
		return compiler.getSchema(`${ROOT}#/tops/${place}`);
	}

	async #open(): Promise<Compiler> {
		const compiler = await compilerOf(DRAFT, { validateSchema: false }, this.#numbers);
		compiler.addSchema({ $id: ROOT, $defs: this.#defs, tops: this.#tops });
		return compiler;
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
