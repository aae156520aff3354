import { isXmlType, mediaType } from '../model/reply.ts';
import { dataOf, jsonPathOf } from '../selectors/index.ts';
import type { CheckKind } from './kind.ts';

const MOST_SHOWN = 5;

export const schema: CheckKind<'schema'> = {
	key: 'schema',
	whole: () => true,
	files: (expected) => [String(expected)],
	label: 'schema',
	doc: 'The body against a schema of the project: JSON Schema (2020-12, 2019-09, 07, 06 or 04, as its $schema says), or XSD when the file ends in .xsd. What a schema refers to is found in the project alone.',
	example: { schema: 'schemas/booking.json' },
	form: 'value',
	problem: (value) =>
		typeof value === 'string' && value.trim() ? undefined : 'a file is wanted, such as schemas/booking.json',
	look: ({ view }) => ({ found: view.reply.body.length > 0, value: undefined }),
	async judge({ found }, expected, { view, validate }) {
		const file = String(expected);
		if (!found) return { holds: false, received: 'an empty body' };
		if (file.endsWith('.xsd')) {
			const faults = await view.validateXml(file);
			const first = faults[0];
			if (!first) return { holds: true, received: 'it fits' };
			const lines = faults.slice(0, MOST_SHOWN).map(({ line, message }) => `line ${line}: ${message}`);
			return { holds: false, received: summarized(lines, faults.length), ...(first.path ? { place: first.path } : {}) };
		}
		if (!validate) throw new Error('schemas cannot be read here');
		if (isXmlType(mediaType(view.reply.headers).type))
			throw new Error('the body is XML: a schema that ends in .xsd fits it');
		const faults = await validate(await dataOf(view), file);
		const first = faults[0];
		if (!first) return { holds: true, received: 'it fits' };
		const lines = faults.slice(0, MOST_SHOWN).map(({ path, message }) => `${jsonPathOf(path)} ${message}`);
		return { holds: false, received: summarized(lines, faults.length), place: jsonPathOf(first.path) };
	}
};

const summarized = (lines: string[], count: number): string =>
	`${lines.join('; ')}${count > MOST_SHOWN ? `; and ${count - MOST_SHOWN} more` : ''}`;
