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

/** @param readText the text of a file of the project */
export function createOpenapiRegistry(
	paths: Iterable<string>,
	readText: (path: string) => string | undefined
): OpenapiRegistry {
	const candidates = [...paths].filter((path) => /^definitions\/.*\.(json|ya?ml)$/i.test(path)).sort();
	let files: string[] | undefined;
	const read = new Map<string, OpenapiDefinition | HeronError>();
	const open = (file: string): OpenapiDefinition | HeronError => {
		let made = read.get(file);
		if (!made) {
			try {
				made = readKept(file, readText);
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
				made = error;
			}
			read.set(file, made);
		}
		return made;
	};
	/** Operations of one method and path: more than one only where query or fragment tell them apart. */
	const found = new Map<string, OpenapiOperation[] | HeronError>();
	const openapis: OpenapiRegistry = {
		files: () => (files ??= candidates.filter((path) => looksLikeOpenapi(readText(path) ?? ''))),
		all: () =>
			openapis.files().map((file) => {
				const found = open(file);
				return found instanceof HeronError ? { file, error: found } : { file, definition: found };
			}),
		find(place, named) {
			const key = writeJson([place.method, place.path, place.base, named]);
			let operations = found.get(key);
			if (!operations) {
				try {
					operations = look(place, named);
				} catch (error) {
					if (!(error instanceof HeronError)) throw error;
					operations = error;
				}
				if (found.size < MOST_FOUND) found.set(key, operations);
			}
			if (operations instanceof HeronError) throw operations;
			return variantOf(operations, place.carried)!;
		}
	};
	return openapis;

	function look(place: CallPlace, named: string | undefined): OpenapiOperation[] {
		const known = openapis.files();
		const from = named ? [named.startsWith('definitions/') ? named : `definitions/${named}`] : known;
		if (from.length === 0)
			throw new HeronError('definition.none', { detail: 'definitions/ holds no OpenAPI document' });
		const opened = from.map(open);
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
			const names = fitting.map(([one]) => one!.document.file.replace('definitions/', '')).join(' and ');
			throw new HeronError('definition.ambiguous', { call, files: names });
		}
		const broken = opened.find((one): one is HeronError => one instanceof HeronError);
		if (broken && there.length === 0) throw broken;
		const others = there.flat().map(nameOf);
		const lost = opened.flatMap((one) => (one instanceof HeronError ? [] : lostPaths(one.document)));
		const hint =
			others.length > 0
				? `; there is ${[...new Set(others)].slice(0, 4).join(', ')}`
				: lost
						.slice(0, 2)
						.map(({ template, error }) => `; ${template} cannot be followed: ${textOf(error)}`)
						.join('');
		throw new HeronError('definition.unknown', {
			call,
			files: from.map((file) => file.replace('definitions/', '')).join(', '),
			hint
		});
	}
}
