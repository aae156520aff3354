import { writeJson } from '../model/json.ts';
import { HeronError, textOf } from '../errors.ts';
import { memoizeByContent } from '../model/kept.ts';
import { looksLikeOpenapi, readOpenapi, type OpenapiDocument } from './document.ts';
import { lostPaths, nameOf, operationsAt, operationsOf, type CallPlace, type OpenapiOperation } from './operations.ts';
import { variantOf } from './variants.ts';

/** A document that was read, with all that it offers. */
export interface OpenapiDefinition {
	document: OpenapiDocument;
	operations: OpenapiOperation[];
}

/** The OpenAPI documents of a project, each read when it is first asked for. */
export interface OpenapiRegistry {
	/** Paths of the documents. */
	files(): string[];
	/** All that can be read, and why the others cannot. */
	all(): { file: string; definition?: OpenapiDefinition; error?: HeronError }[];
	/**
	 * The operation that a call is one of.
	 * @param named the file that the connection names, when it names one
	 * @throws HeronError definition.none, definition.unknown, definition.ambiguous, definition.wrong
	 */
	find(place: CallPlace, named?: string): OpenapiOperation;
}

const readKept = memoizeByContent((file, readText): OpenapiDefinition => {
	const document = readOpenapi(file, readText);
	return { document, operations: operationsOf(document) };
});

/** So many calls are remembered: those of long runs differ in their path alone. */
const MOST_FOUND = 10_000;

type Opened = OpenapiDefinition | HeronError;
/** What an attempt gives, or the error that it ends with, to be kept. */
function attempt<T>(make: () => T): T | HeronError {
	try {
		return make();
	} catch (error) {
		if (!(error instanceof HeronError)) throw error;
		return error;
	}
}
const shortName = (file: string): string => file.replace('definitions/', '');

class Openapis implements OpenapiRegistry {
	readonly #candidates: string[];
	readonly #readText: (path: string) => string | undefined;
	#files: string[] | undefined;
	readonly #read = new Map<string, Opened>();
	/** Operations of one method and path: more than one only where query or fragment tell them apart. */
	readonly #found = new Map<string, OpenapiOperation[] | HeronError>();

	constructor(paths: Iterable<string>, readText: (path: string) => string | undefined) {
		this.#candidates = [...paths].filter((path) => /^definitions\/.*\.(json|ya?ml)$/i.test(path)).sort();
		this.#readText = readText;
	}

	#open(file: string): Opened {
		let made = this.#read.get(file);
		if (!made) this.#read.set(file, (made = attempt(() => readKept(file, this.#readText))));
		return made;
	}

	files(): string[] {
		return (this.#files ??= this.#candidates.filter((path) => looksLikeOpenapi(this.#readText(path) ?? '')));
	}

	all(): ReturnType<OpenapiRegistry['all']> {
		return this.files().map((file) => {
			const found = this.#open(file);
			return found instanceof HeronError ? { file, error: found } : { file, definition: found };
		});
	}

	find(place: CallPlace, named?: string): OpenapiOperation {
		const key = writeJson([place.method, place.path, place.base, named]);
		let operations = this.#found.get(key);
		if (!operations) {
			operations = attempt(() => this.#look(place, named));
			if (this.#found.size < MOST_FOUND) this.#found.set(key, operations);
		}
		if (operations instanceof HeronError) throw operations;
		return variantOf(operations, place.carried)!;
	}

	#look(place: CallPlace, named: string | undefined): OpenapiOperation[] {
		const from = named ? [named.startsWith('definitions/') ? named : `definitions/${named}`] : this.files();
		if (from.length === 0)
			throw new HeronError('definition.none', { detail: 'definitions/ holds no OpenAPI document' });
		const opened = from.map((file) => this.#open(file));
		const there = opened.flatMap((one) => {
			if (one instanceof HeronError) return [];
			const found = operationsAt(one.operations, place);
			return found.length > 0 ? [found] : [];
		});
		const fitting = there
			.map((found) => found.filter(({ method }) => method === place.method))
			.filter((found) => found.length > 0);
		if (fitting.length === 1) return fitting[0]!;
		const call = `${place.method} ${place.path}`;
		if (fitting.length > 1) {
			const files = fitting.map(([one]) => shortName(one!.document.file)).join(' and ');
			throw new HeronError('definition.ambiguous', { call, files });
		}
		const broken = opened.find((one): one is HeronError => one instanceof HeronError);
		if (broken && there.length === 0) throw broken;
		const files = from.map(shortName).join(', ');
		throw new HeronError('definition.unknown', { call, files, hint: hintFor(there.flat(), opened) });
	}
}

/** What there is in place of an operation that nobody knows: others at its path, or paths that cannot be followed. */
function hintFor(others: readonly OpenapiOperation[], opened: readonly Opened[]): string {
	if (others.length > 0) return `; there is ${[...new Set(others.map(nameOf))].slice(0, 4).join(', ')}`;
	return opened
		.flatMap((one) => (one instanceof HeronError ? [] : lostPaths(one.document)))
		.slice(0, 2)
		.map(({ template, error }) => `; ${template} cannot be followed: ${textOf(error)}`)
		.join('');
}

/** @param readText the text of a file of the project */
export const createOpenapiRegistry = (
	paths: Iterable<string>,
	readText: (path: string) => string | undefined
): OpenapiRegistry => new Openapis(paths, readText);
