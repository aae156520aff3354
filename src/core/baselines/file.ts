import { isObject, parseJson, writeJson, type Json } from '../model/json.ts';

/** A document that is approved, for comparison. */
export interface Approved {
	path: string;
	text: string;
}

const NAME = /^[A-Za-z0-9_][\w.-]*$/;
/** Whether a text can name a baseline: a file in `baselines/`. */
export const isBaselineName = (value: unknown): value is string => typeof value === 'string' && NAME.test(value);

const ENDINGS = ['json', 'xml', 'txt'] as const;

/** Where an approved reply is kept: in one file for all environments, or in one of its own. */
export const approvedFile = (name: string, text: string, environment = ''): string =>
	`baselines/${name}${environment ? `@${environment}` : ''}.${kindOf(text)}`;

/** Files in which a baseline may be, that of the environment first. */
export const baselineFiles = (name: string, environment: string): string[] =>
	[...(environment ? [`${name}@${environment}`] : []), name].flatMap((stem) =>
		ENDINGS.map((ending) => `baselines/${stem}.${ending}`)
	);

function kindOf(text: string): (typeof ENDINGS)[number] {
	if (/^\s*</.test(text)) return 'xml';
	try {
		parseJson(text);
		return 'json';
	} catch {
		return 'txt';
	}
}

/** The text of a baseline: JSON with sorted keys, one value a line, so that a change is a small one; anything else as it came. */
export function approvedText(text: string): string {
	return kindOf(text) === 'json' ? `${writeJson(sorted(parseJson(text)), 2)}\n` : text;
}

function sorted(value: Json): Json {
	if (Array.isArray(value)) return value.map(sorted);
	if (!isObject(value)) return value;
	const keys = Object.keys(value).sort();
	return Object.fromEntries(keys.map((key) => [key, sorted(value[key] as Json)]));
}
