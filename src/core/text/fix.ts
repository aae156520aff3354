import type { Problem } from '../errors.ts';
import { nearestOf } from '../messages.ts';
import { isObject, type JsonObject } from '../model/json.ts';
import { schemasAt } from './complete.ts';

/** A change of a text that fixes a problem. */
export interface TextFix {
	label: string;
	/** What is taken out, in UTF-16 code units, and what takes its place. */
	from: number;
	to: number;
	text: string;
}

/**
 * Fixes of what is misspelt: a key by the nearest one that the schema knows there.
 * @param lines those of the text, without their ends
 */
export function textFixOf(problem: Problem, lines: readonly string[], schema: JsonObject): TextFix | undefined {
	const key = problem.path.at(-1);
	if (problem.code !== 'model.unknownKey' || typeof key !== 'string' || !problem.line) return undefined;
	const known = schemasAt(schema, problem.path.slice(0, -1)).flatMap(({ properties }) =>
		isObject(properties) ? Object.keys(properties) : []
	);
	const meant = nearestOf(key, known);
	if (meant === undefined) return undefined;
	// its value may stand below it
	for (let line = problem.line; line > Math.max(0, problem.line - 3); line--) {
		const at = (lines[line - 1] ?? '').search(new RegExp(`(?<![\\w-])${key.replace(/[^\w]/g, '\\$&')}["']?\\s*:`));
		if (at < 0) continue;
		const from = lines.slice(0, line - 1).reduce((sum, one) => sum + one.length + 1, at);
		return { label: `write ${meant}`, from, to: from + key.length, text: meant };
	}
	return undefined;
}
