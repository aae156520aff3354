import type { Problem } from '../errors.ts';
import { messageOf, type MessageCode } from '../messages.ts';
import { kindOf, parseStep } from '../steps/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { typesIn, typeMismatches } from './types.ts';
import { plainSecrets, plainVariables, stepRules } from './rules.ts';

export { jsonFault } from './json-text.ts';
export { looksSecret, plainSecretOf } from './secret.ts';
export { typesIn, typeMismatches };
export { xmlFault } from './xml-text.ts';
export { stepRules } from './rules.ts';
type Path = (string | number)[];

/** Secrets that stand in plain in another file than a collection's: in variables, connections and credentials. */
export function lintSecrets(file: string, value: unknown): Problem[] {
	if (!isObject(value)) return [];
	const found = [...plainVariables(value.variables, ['variables'])];
	for (const [name, variables] of Object.entries(isObject(value.environments) ? value.environments : {}))
		for (const one of plainVariables(variables, ['environments', name])) found.push(one);
	if (file.startsWith('connections/') || file.startsWith('credentials/'))
		for (const one of plainSecrets(value as Json, [])) found.push(one);
	if (file.startsWith('stand-ins/') && isObject(value.wsSecurity))
		for (const one of plainSecrets(value.wsSecurity as Json, ['wsSecurity'])) found.push(one);
	return found.map(({ at, name }) => ({
		code: 'lint.plainSecret' as const,
		message: messageOf('lint.plainSecret', { name }),
		file,
		path: at
	}));
}

/** The steps of a collection's file that can be read, with their place. */
function* stepsIn(value: unknown): Generator<{ at: [scenario: number, step: number]; raw: JsonObject }> {
	if (!isObject(value) || !Array.isArray(value.scenarios)) return;
	for (const [at, scenario] of (value.scenarios as unknown[]).entries())
		if (isObject(scenario) && Array.isArray(scenario.steps))
			for (const [index, raw] of (scenario.steps as unknown[]).entries())
				if (isObject(raw)) yield { at: [at, index], raw: raw as JsonObject };
}

/**
 * Comparisons of a number as a text, or the reverse.
 * @param typesOf what is known of the names in the answer of a step's call
 */
export function lintTypes(
	file: string,
	value: unknown,
	typesOf: (at: [scenario: number, step: number]) => ReadonlyMap<string, ReadonlySet<string>> | undefined
): Problem[] {
	const out: Problem[] = [];
	for (const { at, raw } of stepsIn(value)) {
		const types = typesOf(at);
		const path: Path = ['scenarios', at[0], 'steps', at[1]];
		for (const { at: below, values = {}, fix } of types ? typeMismatches(raw, types, 'the definition') : [])
			out.push({
				code: 'lint.comparedType',
				message: messageOf('lint.comparedType', values),
				file,
				path: [...path, ...below],
				...(fix
					? { fix: { ...fix, edits: fix.edits.map((edit) => ({ ...edit, path: [...path, ...edit.path] })) } }
					: {})
			});
	}
	return out;
}

/** What is allowed in a collection's file, and seldom meant; paths from the file's root. */
export function lintCollection(file: string, value: unknown): Problem[] {
	if (!isObject(value) || !Array.isArray(value.scenarios)) return [];
	const out: Problem[] = [];
	const add = (path: Path, code: MessageCode, values: Record<string, string | number> = {}, fix?: Problem['fix']) =>
		out.push({ code, message: messageOf(code, values), file, path, ...(fix ? { fix } : {}) });
	for (const [at, scenario] of (value.scenarios as unknown[]).entries()) {
		if (!isObject(scenario) || !Array.isArray(scenario.steps)) continue;
		let unchecked: number | undefined;
		for (const [index, raw] of (scenario.steps as unknown[]).entries()) {
			if (!isObject(raw)) continue;
			const path: Path = ['scenarios', at, 'steps', index];
			const step = parseStep(raw);
			const { send } = step;
			// what is called or computed may check, too
			if (kindOf(step).judges) unchecked = undefined;
			if (!send) continue;
			const looks = step.until !== undefined || send.checks.some((check) => !check.off);
			if (!step.off) unchecked = looks ? undefined : (unchecked ?? index);
			for (const rule of stepRules) {
				for (const { at: below, values, fix } of rule.find({ ...step, send }, raw as JsonObject)) {
					const edits = fix?.edits.map((edit) => ({ ...edit, path: [...path, ...edit.path] }));
					add([...path, ...below], rule.code, values, fix && { label: fix.label, edits: edits! });
				}
			}
		}
		if (unchecked !== undefined) add(['scenarios', at, 'steps', unchecked], 'lint.unchecked');
	}
	return out;
}
