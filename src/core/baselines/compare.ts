import { compareData, compareLines, type Difference } from '../diff/index.ts';
import { HeronError, textOf } from '../errors.ts';
import { parseJson, writeJson, type Json } from '../model/json.ts';
import { compileXmlPlaces, xmlData } from '../model/xml-data.ts';
import type { Approved } from './file.ts';
import { compileJsonPath } from '../selectors/index.ts';

/** What is of no interest: JSONPaths, or plain XPaths of XML. */
export interface Ignoring {
	ignore: string[];
	unordered: string[];
}

/** Whether a text is compared as XML. */
export const isXmlText = (text: string): boolean => /^\s*</.test(text);

/** A body as data to be compared: JSON, XML as data, or else its lines. */
export function dataOf(text: string): Json {
	if (isXmlText(text)) return xmlData(text, true);
	try {
		return parseJson(text);
	} catch {
		return text.split(/\r?\n/);
	}
}

/**
 * What is different between an approved reply and another one.
 * @throws HeronError baseline.wrong when the approved one cannot be read any more
 */
export function compareApproved(
	{ path, text }: Approved,
	received: string,
	{ ignore, unordered }: Ignoring
): Difference[] {
	let before: Json;
	try {
		before = path.endsWith('.json') ? parseJson(text) : dataOf(text);
	} catch (cause) {
		throw new HeronError('baseline.wrong', { file: path, detail: textOf(cause) }, { cause });
	}
	if (path.endsWith('.txt') && text !== received) return lines(text, received);
	let after: Json;
	try {
		after = dataOf(received);
	} catch (cause) {
		throw new HeronError('selector.xml', { detail: textOf(cause) }, { cause });
	}
	const placesIn = (selectors: string[], value: Json) =>
		new Set(selectors.flatMap((one) => placesOf(one)(value).map(keyOf)));
	const ignored = { before: placesIn(ignore, before), after: placesIn(ignore, after) };
	// elements of one name are a list that has no name of its own in XML
	const listOf = (path: (string | number)[]) => (typeof path.at(-1) === 'number' ? path.slice(0, -1) : path);
	const loose = new Set(
		unordered.flatMap((one) =>
			placesOf(one)(after)
				.map(one.startsWith('/') ? listOf : same)
				.map(keyOf)
		)
	);
	return compareData(before, after, {
		ignored: (at, side) => ignored[side].size > 0 && ignored[side].has(keyOf(at)),
		unordered: (at) => loose.size > 0 && loose.has(keyOf(at))
	});
}

const placesOf = (selector: string): ((value: Json) => (string | number)[][]) =>
	selector.startsWith('/') ? compileXmlPlaces(selector) : (value) => compileJsonPath(selector).places(value);

const same = <T>(value: T): T => value;
const keyOf = (path: readonly (string | number)[]): string => writeJson(path);

/** Texts are told apart by lines. */
function lines(before: string, after: string): Difference[] {
	const out: Difference[] = [];
	let line = 0;
	for (const piece of compareLines(before, after)) {
		const texts = piece.text.replace(/\n$/, '').split('\n');
		if (piece.side !== 'both')
			out.push(
				piece.side === 'before'
					? { kind: 'removed', path: [line], before: texts.join('\n') }
					: { kind: 'added', path: [line], after: texts.join('\n') }
			);
		if (piece.side !== 'before') line += texts.length;
	}
	return out;
}
