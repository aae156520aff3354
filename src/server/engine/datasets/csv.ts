import {
	columnsOf,
	delimiterName,
	encodingOf,
	formOf,
	headerDoubt,
	rowOf,
	SAMPLE_ROWS,
	type CsvForm,
	type Dataset,
	type DataSpec
} from '#core/datasets/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { CsvError, parse, type Parser } from 'csv-parse';
import { Readable } from 'node:stream';
import type { DataSource } from './source.ts';

const HEAD = 1 << 16;
const LONGEST_RECORD = 32_000_000;

/** Opens a table of text cells; nothing but its beginning is read before its rows are asked for. */
export async function openCsv(path: string, spec: DataSpec, source: DataSource): Promise<Dataset> {
	const file = path.slice('datasets/'.length);
	const head = source.head(path, HEAD);
	const found = encodingOf(head);
	const encoding = spec.read.encoding ?? found.encoding;
	const text = decoderOf(encoding, file)(head.subarray(found.bom), true);
	const guess = formOf(text);
	const form: CsvForm = {
		...guess,
		...found,
		encoding,
		delimiter: spec.read.delimiter ?? (path.endsWith('.tsv') ? '\t' : guess.delimiter),
		header: spec.read.header ?? guess.header
	};
	let odd: string | undefined;
	const records = () => recordsOf(path, form, source, (line) => (odd ??= line));
	const first: string[][] = [];
	for await (const record of records()) if (first.push(record) > SAMPLE_ROWS) break;
	const doubt = form.header || spec.read.header !== undefined ? undefined : headerDoubt(first);
	const width = first[0]?.length ?? 0;
	const titles = form.header ? (first[0] ?? []) : Array.from({ length: width }, (_, index) => `column${index + 1}`);
	const columns = columnsOf(file, titles, form.header ? first.slice(1) : first, spec);
	return {
		file,
		columns,
		delimiter: form.delimiter,
		notes: [
			`${delimiterName(form.delimiter)} between cells`,
			form.header ? 'names of the columns in the first row' : 'no row with the names of the columns',
			`${form.encoding}${form.bom ? ', with a byte order mark' : ''}`,
			...(doubt ? [doubt] : []),
			...(odd ? [odd] : [])
		],
		// what was read whole to find the types is counted already
		...(first.length <= SAMPLE_ROWS ? { count: Math.max(0, first.length - (form.header ? 1 : 0)) } : {}),
		async *rows() {
			let number = form.header ? 0 : 1;
			for await (const record of records()) {
				if (number > 0) yield rowOf(number, record, columns);
				number++;
			}
		}
	};
}

function decoderOf(encoding: string, file: string): (bytes: Uint8Array, more: boolean) => string {
	let decoder: TextDecoder;
	try {
		decoder = new TextDecoder(encoding);
	} catch {
		throw new HeronError('dataset.syntax', { file, detail: `the encoding "${encoding}" is not known` });
	}
	return (bytes, more) => decoder.decode(bytes, { stream: more });
}

/**
 * The records of a file. A quote inside of a cell that does not begin with one is taken as it is, though RFC 4180 section 2
 * has none there.
 * @param warn is given a note with the line of the first such cell
 */
async function* recordsOf(
	path: string,
	form: CsvForm,
	source: DataSource,
	warn: (note: string) => void = () => {}
): AsyncGenerator<string[]> {
	const file = path.slice('datasets/'.length);
	const decode = decoderOf(form.encoding, file);
	const texts = async function* () {
		for await (const piece of source.pieces(path, form.bom)) yield decode(piece, true);
		yield decode(new Uint8Array(), false);
	};
	const parser: Parser = parse({
		delimiter: form.delimiter,
		quote: form.quote,
		escape: form.quote,
		relax_column_count: true,
		relax_quotes: true,
		info: true,
		raw: true,
		skip_empty_lines: true,
		max_record_size: LONGEST_RECORD
	});
	const input = Readable.from(texts());
	input.on('error', (error) => parser.destroy(error));
	input.pipe(parser);
	try {
		type CsvRecord = { record: string[]; info: { lines: number }; raw: string };
		for await (const { record, info, raw } of parser as AsyncIterable<CsvRecord>) {
			if (form.quote && record.some((cell) => cell.includes(form.quote)) && !raw.includes(form.quote + form.quote))
				warn(`line ${info.lines}: a ${form.quote} inside of a cell is taken as it is`);
			yield record;
		}
	} catch (cause) {
		if (!(cause instanceof CsvError)) throw cause;
		const line = Number((cause as unknown as { lines?: number }).lines ?? 0);
		throw new HeronError(
			'dataset.syntax',
			{ file, detail: `${line ? `line ${line}: ` : ''}${textOf(cause)}` },
			{ cause }
		);
	} finally {
		input.destroy();
		parser.destroy();
	}
}
