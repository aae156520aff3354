import { utf8, xmlEscapes } from '../values/index.ts';
import type { BodyKind } from './kind.ts';

const textual = <Key extends string>(
	key: Key,
	label: string,
	contentType: string,
	doc: string,
	example: string,
	escapes: () => { escape?: (t: string) => string; literal?: (t: string) => string } = () => ({})
): BodyKind<Key> => ({
	key,
	label,
	doc,
	example,
	fresh: '',
	schema: { type: 'string' },
	contentType,
	check(value, report) {
		if (typeof value !== 'string') report([], 'a text is wanted');
	},
	build: async (value, { evaluator, scope }) => {
		const { escape, literal } = escapes();
		return { bytes: utf8(await evaluator.text(String(value), scope, escape, literal)), contentType };
	}
});

/** Any text. */
export const text = textual(
	'text',
	'text',
	'text/plain; charset=utf-8',
	'Any text.',
	'Mooring {$row.mooring} is free.'
);
/** Text of XML: values are escaped where they stand. */
export const xml = textual(
	'xml',
	'XML',
	'application/xml; charset=utf-8',
	'XML text; values are escaped where they stand.',
	'<mooring name="{$row.mooring}"/>',
	xmlEscapes
);
