import { lintCollection, lintSecrets } from '../lint/index.ts';
import type { Problem } from '../errors.ts';
import type { MessageCode } from '../messages.ts';
import { isObject, type Json } from '../model/json.ts';
import type { DocumentKind } from '../documents/kind.ts';
import { kindOfFile } from '../documents/kinds.ts';
import { findProblems } from '../model/shape.ts';
import { parseYaml, type ParsedYaml } from '../model/yaml.ts';
import { hasExpression, templateProblem } from '../values/index.ts';

/** A document as it was read: data, problems with their place, and its kind. */
export interface LoadedDocument {
	path: string;
	kind: DocumentKind;
	name: string;
	value: Json;
	problems: Problem[];
	/** What is allowed in it, and seldom meant. */
	warnings?: Problem[];
	placeOf: ParsedYaml['placeOf'];
}

/** Problems of one document by itself: syntax, unknown keys, wrong values, unreadable expressions. */
export function loadDocument(path: string, text: string): LoadedDocument | undefined {
	const found = kindOfFile(path);
	if (!found) return undefined;
	const parsed = parseYaml(path, text);
	return {
		path,
		...found,
		value: parsed.value,
		problems: documentProblems(found.kind, path, parsed),
		warnings: documentWarnings(found.kind, path, parsed),
		placeOf: parsed.placeOf
	};
}

/** Problems of a document whose data is at hand; places are only known when `placeOf` is given. */
export function documentProblems(
	kind: DocumentKind,
	path: string,
	parsed: Pick<ParsedYaml, 'value' | 'problems'> & Partial<ParsedYaml>
): Problem[] {
	if (parsed.problems.length > 0) return parsed.problems;
	const problems: Problem[] = [];
	const add = (at: (string | number)[], message: string, code: MessageCode = 'model.wrong') =>
		problems.push({ code, message, file: path, path: at, ...(parsed.placeOf?.(at) ?? {}) });
	if (!isObject(parsed.value)) {
		add([], 'keys with values are wanted; a file starts with heron: 1');
		return problems;
	}
	for (const found of findProblems(kind.schema, parsed.value)) {
		add(found.path, found.message, found.message.startsWith('unknown key') ? 'model.unknownKey' : 'model.wrong');
	}
	kind.check?.(parsed.value, (at, message) => add(at, message));
	eachText(parsed.value, [], (text, at) => {
		const problem = templateProblem(text);
		if (problem) add([...at], problem.message, 'value.syntax');
	});
	return problems.sort((a, b) => (a.line ?? 0) - (b.line ?? 0));
}

/** What is allowed in a document by itself, and seldom meant. */
export function documentWarnings(
	kind: DocumentKind,
	path: string,
	parsed: Pick<ParsedYaml, 'value' | 'problems'> & Partial<ParsedYaml>
): Problem[] {
	if (parsed.problems.length > 0) return [];
	const found = kind.name === 'collection' ? lintCollection(path, parsed.value) : lintSecrets(path, parsed.value);
	return found.map((one) => ({ ...one, ...(parsed.placeOf?.(one.path) ?? {}) }));
}

/** Looks at every text with an expression. @param at where it stands: one list for all, which changes on the way */
function eachText(
	value: unknown,
	at: (string | number)[],
	look: (text: string, at: (string | number)[]) => void
): void {
	if (typeof value === 'string') {
		if (hasExpression(value)) look(value, at);
		return;
	}
	const inside = (key: string | number, item: unknown) => {
		at.push(key);
		eachText(item, at, look);
		at.pop();
	};
	if (Array.isArray(value)) value.forEach((item, index) => inside(index, item));
	else if (isObject(value)) for (const key of Object.keys(value)) inside(key, value[key]);
}
