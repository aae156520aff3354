import { HeronError } from '../errors.ts';
import { isObject } from '../model/json.ts';
import { compileExpression, type Reference } from './expression.ts';
import { hasExpression, parseTemplate } from './template.ts';

/** Every name that the texts inside plain data ask for; what cannot be read is left out (a parser reports it). */
export function referencesIn(value: unknown, bare = false): Reference[] {
	const out: Reference[] = [];
	if (typeof value === 'string') fromText(value, bare, out);
	else fromData(value, out);
	return out;
}

function fromText(text: string, bare: boolean, out: Reference[]): void {
	if (!bare && !hasExpression(text)) return;
	const found: Reference[] = [];
	try {
		const sources = bare ? [text] : parseTemplate(text).flatMap((part) => ('source' in part ? [part.source] : []));
		for (const source of sources) for (const one of compileExpression(source).references) found.push(one);
	} catch {
		return;
	}
	for (const one of found) out.push(one);
}

// one list for all: this looks at every value of a project
function fromData(value: unknown, out: Reference[]): void {
	if (typeof value === 'string') fromText(value, false, out);
	else if (Array.isArray(value)) for (const item of value) fromData(item, out);
	else if (isObject(value))
		for (const key of Object.keys(value)) {
			fromText(key, false, out);
			fromData(value[key], out);
		}
}

/** Functions that the expressions inside plain data call, and that nobody knows; what cannot be read is left out. */
export function unknownCallsIn(value: unknown, bare = false): string[] {
	if (typeof value === 'object' && value !== null)
		return Object.values(value).flatMap((part: unknown) => unknownCallsIn(part));
	if (typeof value !== 'string' || !(bare || hasExpression(value)) || !value.includes('(')) return [];
	try {
		const sources = bare ? [value] : parseTemplate(value).flatMap((part) => ('source' in part ? [part.source] : []));
		return sources.flatMap((source) => compileExpression(source).unknownCalls);
	} catch {
		return [];
	}
}

/** What is wrong with the expressions of a text, or undefined. */
export function templateProblem(text: string, bare = false): HeronError | undefined {
	try {
		if (bare) compileExpression(text);
		else if (hasExpression(text)) {
			for (const part of parseTemplate(text)) if ('source' in part) compileExpression(part.source);
		}
		return undefined;
	} catch (error) {
		if (error instanceof HeronError) return error;
		throw error;
	}
}
