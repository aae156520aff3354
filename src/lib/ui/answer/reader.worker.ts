import { compareData, type Difference } from '#core/diff/index.ts';
import { textOf } from '#core/errors.ts';
import { writeJson, type Json } from '#core/model/json.ts';
import { api } from '../common/api.ts';
import { latin1 } from '#core/values/index.ts';
import type { RelatedPart } from '#core/model/related.ts';
import { prettyXml, type SoapFault } from '#core/soap/index.ts';
import { getIn } from '#core/model/path.ts';
import type { HeaderList } from '#core/model/reply.ts';
import {
	fieldOf,
	findTables,
	hexLines,
	keysTwice,
	orderedRows,
	readBody,
	searchData,
	selectorOf,
	tableCsv,
	tableRow,
	treeLines,
	withPage,
	type BodyForm,
	type Opened,
	type Path,
	type ReadBody,
	type TableInfo,
	type TableRow,
	type TableView,
	type TreeLine
} from '#core/reading/index.ts';

/** What can be asked of the reader; each with what it answers. */
export interface Orders {
	/** `hash` is that of a recorded body: it is fetched here, because even taking it over would hold up the page. */
	open: { order: { key: string; hash: string; headers: HeaderList }; answer: OpenedBody };
	drop: { order: { key: string }; answer: null };
	lines: { order: { key: string; opened: Opened; from: number; count: number }; answer: Page<TreeLine> };
	/** A value as text: as JSON, or a text as it is. */
	value: { order: { key: string; path: Path }; answer: string };
	data: { order: { key: string; path: Path }; answer: Json | null };
	/** The field of a page whose value a place is. */
	field: { order: { key: string; path: Path }; answer: { name: string; selector: string } | null };
	search: { order: { key: string; text: string }; answer: { paths: Path[]; more: boolean } };
	tables: { order: { key: string }; answer: TableInfo[] };
	rows: { order: { key: string } & TableOrder & { from: number; count: number }; answer: Page<TableRow> };
	csv: { order: { key: string } & TableOrder; answer: string };
	text: { order: { key: string; form: TextForm; from: number; count: number }; answer: Page<string> };
	/** The bytes of an attachment. */
	part: { order: { key: string; index: number }; answer: Uint8Array };
	twice: { order: { key: string }; answer: string[] };
	compare: { order: { key: string; with: string }; answer: ShownDifference[] };
}
export type OrderName = keyof Orders;
export type TextForm = 'pretty' | 'raw' | 'hex';
export interface TableOrder {
	table: string;
	columns: string[];
	view: TableView;
}
export interface Page<T> {
	items: T[];
	total: number;
	/** There is more than can be shown. */
	more?: boolean;
}
export interface OpenedBody {
	form: BodyForm;
	type: string;
	notes: string[];
	hasData: boolean;
	/** Characters of text, or bytes. */
	length: number;
	/** The whole of it, where it is small. */
	data?: Json;
	tables: number;
	/** What travels beside the message. */
	parts: { name: string; type: string; size: number }[];
	fault?: SoapFault;
}
/** With its places as selectors. */
export type ShownDifference = Difference & { place: string; stood?: string };

interface Held {
	read: ReadBody;
	bytes: Uint8Array;
	tables?: ReturnType<typeof findTables>;
	texts: Map<TextForm, string[]>;
	lines?: { key: string; found: ReturnType<typeof treeLines> };
}

const SMALL = 2_000_000;
/** More lines than these hold the page up for longer than a tenth of a second. */
const TEXT_LINES_MOST = 80_000;
/** Longer lines are broken, so that none has to be drawn as a whole. */
const LINE_MOST = 2000;
/** Up to here a text is set out anew for reading. */
const PRETTY_LIMIT = 60_000_000;

const XML_PRETTY_LIMIT = 5_000_000;

const bodies = new Map<string, Held>();

/** What an attachment is called: by its file name, else by its id. */
function partName({ headers, id }: RelatedPart): string {
	const disposition = headers.find(([name]) => name.toLowerCase() === 'content-disposition')?.[1] ?? '';
	return /filename\s*=\s*"?([^";]+)/i.exec(disposition)?.[1]?.trim() ?? (id || 'attachment');
}

/** Whether data can be handed over: what is nested deeper cannot be copied. */
function isShallow(root: Json): boolean {
	let level: Json[] = [root];
	for (let depth = 0; depth < DEPTH; depth++) {
		level = level.flatMap((value) => (typeof value === 'object' && value !== null ? Object.values(value) : []));
		if (level.length === 0) return true;
	}
	return false;
}
const DEPTH = 400;

const held = (key: string): Held => {
	const found = bodies.get(key);
	if (!found) throw new Error('the body is not open');
	return found;
};
const tablesOf = (body: Held) => (body.tables ??= findTables(body.read.data ?? null));

function textLines(body: Held, form: TextForm): string[] {
	let lines = body.texts.get(form);
	if (!lines) {
		const { data, text, form: kind } = body.read;
		const set = form === 'pretty' && data !== undefined;
		const whole =
			set && kind === 'json' && text.length < PRETTY_LIMIT
				? writeJson(data, 2)
				: set && kind === 'xml' && text.length < XML_PRETTY_LIMIT
					? prettyXml(text)
					: form === 'raw' && body.read.parts
						? latin1(body.bytes)
						: text;
		lines = whole.split(/\r\n|\n/).flatMap((line) => (line.length <= LINE_MOST ? line : pieces(line)));
		body.texts.set(form, lines);
	}
	return lines;
}
function pieces(line: string): string[] {
	const out: string[] = [];
	for (let at = 0; at < line.length; at += LINE_MOST) out.push(line.slice(at, at + LINE_MOST));
	return out;
}

const handlers: {
	[N in OrderName]: (order: Orders[N]['order']) => Orders[N]['answer'] | Promise<Orders[N]['answer']>;
} = {
	async open({ key, hash, headers }) {
		const bytes = await api.bytes(`/bodies/${hash}`);
		const read = await withPage(readBody(bytes, headers));
		bodies.set(key, { read, bytes, texts: new Map() });
		const small = read.data !== undefined && read.text.length <= SMALL && isShallow(read.data);
		return {
			form: read.form,
			type: read.type,
			notes: read.notes,
			hasData: read.data !== undefined,
			length: read.text.length || bytes.length,
			...(small ? { data: read.data! } : {}),
			// in a large one they are looked for when they are asked for
			tables: read.data === undefined ? 0 : small ? tablesOf(held(key)).size : 1,
			parts: (read.parts ?? []).map((part) => ({ name: partName(part), type: part.type, size: part.bytes.length })),
			...(read.fault ? { fault: read.fault } : {})
		};
	},
	part({ key, index }) {
		const found = held(key).read.parts?.[index];
		if (!found) throw new Error('there is no such part');
		return found.bytes.slice();
	},
	drop({ key }) {
		bodies.delete(key);
		return null;
	},
	lines({ key, opened, from, count }) {
		const body = held(key);
		const state = JSON.stringify([[...opened.by], opened.depth]);
		if (body.lines?.key !== state) body.lines = { key: state, found: treeLines(body.read.data ?? null, opened) };
		const { lines, more } = body.lines.found;
		return { items: lines.slice(from, from + count), total: lines.length, more };
	},
	value({ key, path }) {
		const value = getIn(held(key).read.data ?? null, path);
		return typeof value === 'string' ? value : writeJson(value ?? null, 2);
	},
	data: ({ key, path }) => getIn(held(key).read.data ?? null, path) ?? null,
	field({ key, path }) {
		const { form, data = null } = held(key).read;
		return (form === 'html' && fieldOf(data, path)) || null;
	},
	search: ({ key, text }) => searchData(held(key).read.data ?? null, text),
	tables: ({ key }) => [...tablesOf(held(key)).values()].map(({ info }) => info),
	rows({ key, table, columns, view, from, count }) {
		const tables = tablesOf(held(key));
		const found = tables.get(table);
		if (!found) return { items: [], total: 0 };
		const rows = orderedRows(found, view);
		return {
			items: rows.slice(from, from + count).map((row) => tableRow(tables, found, row, columns)),
			total: rows.length
		};
	},
	csv({ key, table, columns, view }) {
		const found = tablesOf(held(key)).get(table);
		return found ? tableCsv(found, columns, view) : '';
	},
	text({ key, form, from, count }) {
		const body = held(key);
		if (form === 'hex') {
			const lines = Math.ceil(body.bytes.length / 16);
			return {
				items: hexLines(body.bytes, from, count),
				total: Math.min(lines, TEXT_LINES_MOST),
				more: lines > TEXT_LINES_MOST
			};
		}
		const lines = textLines(body, form);
		const total = Math.min(lines.length, TEXT_LINES_MOST);
		return { items: lines.slice(from, Math.min(from + count, total)), total, more: total < lines.length };
	},
	twice: ({ key }) => {
		const { form, text } = held(key).read;
		return form === 'json' ? keysTwice(text) : [];
	},
	compare({ key, with: other }) {
		const data = (of: string): Json => {
			const { read } = held(of);
			return read.data ?? read.text.split(/\r\n|\n/);
		};
		const { form } = held(key).read;
		return compareData(data(other), data(key)).map((one) => ({
			...one,
			place: selectorOf(form, one.path),
			...(one.from ? { stood: selectorOf(form, one.from) } : {})
		}));
	}
};

self.onmessage = async ({ data }: MessageEvent<{ id: number; name: OrderName; order: never }>) => {
	const { id, name, order } = data;
	try {
		const answer = await (handlers[name] as (given: never) => unknown)(order);
		self.postMessage({ id, answer });
	} catch (error) {
		self.postMessage({ id, trouble: textOf(error) });
	}
};
