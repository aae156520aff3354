import { compileXmlPlaces } from '#core/model/xml-data.ts';
import { singularPath } from '#core/selectors/index.ts';
import { checkKind, checkKinds, relationOf } from '#core/checks/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';

/** One relation of a check, as a line on the screen. */
export interface CheckLine {
	name: string;
	expected: Json;
}

export const subjectOf = (check: JsonObject): string => Object.keys(check).find((key) => checkKind(key)) ?? 'status';

/** A check with which each kind starts. */
export const firstCheck = (subject: string): JsonObject => {
	const first: Record<string, JsonObject> = {
		status: { status: 200 },
		header: { header: 'Content-Type', contains: 'json' },
		body: { body: '$', present: true },
		time: { time: { below: '1 s' } },
		size: { size: { atMost: '100 kB' } },
		that: { that: '$response.status < 500' }
	};
	return first[subject] ?? (checkKinds.find((kind) => kind.key === subject)!.example as JsonObject);
};

export function linesOf(check: JsonObject): CheckLine[] {
	const subject = subjectOf(check);
	const { form } = checkKind(subject)!;
	if (form === 'value') return [{ name: subject, expected: check[subject]! }];
	const source = form === 'relations' ? (isObject(check[subject]) ? (check[subject] as JsonObject) : {}) : check;
	return Object.entries(source)
		.filter(([name]) => relationOf(name))
		.map(([name, expected]) => ({ name, expected }));
}

/** The check with other relations; what else it says stays. */
export function withLines(check: JsonObject, lines: CheckLine[]): JsonObject {
	const subject = subjectOf(check);
	const { form } = checkKind(subject)!;
	if (form === 'value') return { ...check, [subject]: lines[0]!.expected };
	const relations = Object.fromEntries(lines.map((line) => [line.name, line.expected]));
	if (form === 'relations') return { ...check, [subject]: relations };
	const entries = Object.entries(check).filter(([key]) => !relationOf(key));
	// relations stand behind where it looks, and before how much it counts
	const at = entries.findIndex(([key]) => key === subject) + 1;
	return Object.fromEntries([
		...entries.slice(0, at),
		...Object.entries(relations),
		...entries.slice(at)
	]) as JsonObject;
}

/** A text of a field: JSON where it is JSON, else the text itself. */
export function readExpected(text: string): Json {
	if (/^\s*([[{"]|-?\d|true$|false$|null$)/.test(text) && !text.startsWith('{$')) {
		try {
			return parseJson(text);
		} catch {
			return text;
		}
	}
	return text;
}
export function showExpected(value: Json): string {
	if (typeof value !== 'string') return writeJson(value);
	return readExpected(value) === value ? value : writeJson(value);
}

/** Whether a selector means one place that can be shown: a singular JSONPath, or a plain path of XML. */
export function isPlace(selector: string): boolean {
	if (!selector.startsWith('/')) return selector.startsWith('$') && singularPath(selector) !== undefined;
	try {
		compileXmlPlaces(selector);
		return true;
	} catch {
		return false;
	}
}

/** What a contract check holds against the definition, as it is written. */
export const SIDES = {
	answer: true,
	request: { request: true },
	/** A call that is wrong on purpose. */
	wrong: { request: false }
} satisfies Record<string, Json>;
export const sideOf = (written: Json | undefined): keyof typeof SIDES =>
	!isObject(written) ? 'answer' : written.request === false ? 'wrong' : 'request';
