import { lookUp } from '../model/lookup.ts';
import type { BodyKind } from './kind.ts';

const TYPES: Record<string, string> = {
	json: 'application/json',
	xml: 'application/xml',
	txt: 'text/plain; charset=utf-8',
	csv: 'text/csv; charset=utf-8',
	pdf: 'application/pdf',
	png: 'image/png',
	jpg: 'image/jpeg',
	jpeg: 'image/jpeg',
	svg: 'image/svg+xml',
	zip: 'application/zip'
};

/** The media type that goes with a file's ending. */
export const typeOfFile = (path: string): string =>
	lookUp(TYPES, /\.(\w+)$/.exec(path)?.[1]?.toLowerCase() ?? '') ?? 'application/octet-stream';

export const file: BodyKind<'file'> = {
	key: 'file',
	label: 'file',
	doc: 'A file of the project, sent byte for byte.',
	example: 'files/permit.pdf',
	fresh: '',
	files: (value) => [String(value)],
	schema: { type: 'string' },
	check(value, report) {
		if (typeof value !== 'string' || !value.trim())
			report([], 'the path of a file in the project is wanted, such as files/permit.pdf');
	},
	async build(value, { evaluator, scope, readFile }) {
		const path = evaluator.bare(await evaluator.text(String(value), scope));
		return { bytes: readFile(path), contentType: typeOfFile(path) };
	}
};
