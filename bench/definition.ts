// The import of a large OpenAPI document, against JSON.parse of its text, warm and interleaved.
import { planDefinitions } from '../src/core/definitions/index.ts';
import { viewReply } from '../src/core/model/view.ts';
import {
	changesBetween,
	compareDefinitions,
	operationsOf,
	readOpenapi,
	replyFaults
} from '../src/core/openapi/index.ts';
import { loadProject } from '../src/core/project/index.ts';
import { createSchemas } from '../src/server/engine/json-schema.ts';

/**
 * A document of so many paths, each with a list, a thing that is created, read, changed and removed, and schemas of their
 * own of so many fields; `inline` writes the schema of an answer out where it is used, with an example, as generators do.
 */
function document(paths: number, fields: number, inline: boolean): string {
	const schemas: Record<string, object> = {};
	const all: Record<string, object> = {};
	const word = (text: string) => ({
		type: 'string',
		description: `${text} of the thing, in words that somebody wrote for people`,
		example: text
	});
	for (let n = 0; n < paths; n++) {
		schemas[`Thing${n}`] = {
			type: 'object',
			required: ['id', 'name'],
			properties: {
				id: { type: 'integer', readOnly: true },
				...Object.fromEntries(Array.from({ length: fields }, (_, i) => [`field${i}`, word(`field ${i}`)])),
				name: word('name'),
				owner: { $ref: `#/components/schemas/Thing${(n * 7 + 1) % paths}` },
				parts: { type: 'array', items: { $ref: `#/components/schemas/Thing${(n * 13 + 3) % paths}` } }
			}
		};
		const body = { content: { 'application/json': { schema: { $ref: `#/components/schemas/Thing${n}` } } } };
		const example = Object.fromEntries(Array.from({ length: fields }, (_, i) => [`field${i}`, `field ${i}`]));
		const written = { content: { 'application/json': { schema: schemas[`Thing${n}`], example } } };
		const answer = (status: string) => ({ [status]: { description: 'it', ...(inline ? written : body) } });
		const id = { name: 'id', in: 'path', required: true, schema: { type: 'integer' } };
		all[`/things${n}`] = {
			get: {
				tags: ['t'],
				summary: 'All',
				parameters: [{ name: 'page', in: 'query', schema: { type: 'integer' } }],
				responses: answer('200')
			},
			post: { tags: ['t'], summary: 'Make one', requestBody: body, responses: answer('201') }
		};
		all[`/things${n}/{id}`] = {
			parameters: [id],
			get: { summary: 'One', responses: answer('200') },
			put: { summary: 'Replace', requestBody: body, responses: answer('200') },
			delete: { summary: 'Remove', responses: { '204': { description: 'gone' } } }
		};
	}
	return JSON.stringify({
		openapi: '3.1.0',
		info: { title: 'Large', version: '1' },
		paths: all,
		components: { schemas }
	});
}

const median = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const time = (act: () => unknown): number => {
	const from = performance.now();
	act();
	return performance.now() - from;
};
const { workspace } = loadProject([{ path: 'heron.yaml', text: 'heron: 1\n' }], new Set(['heron.yaml']));

/** Prints reading and importing over `JSON.parse` of the same text; gives the milliseconds of the import. */
function measure(text: string, operations: number, before?: number): number {
	const bytes = new TextEncoder().encode(text);
	const [raw, read, made]: [number[], number[], number[]] = [[], [], []];
	for (let i = 0; i < 7; i++) {
		raw.push(time(() => JSON.parse(text) as unknown));
		read.push(time(() => operationsOf(readOpenapi('definitions/x.json', () => text))));
		made.push(
			time(() =>
				planDefinitions({
					...{ name: 'x', files: [{ path: 'x.json', bytes }], workspace, connection: '' },
					...{ readFile: () => undefined, valueOf: () => undefined }
				})
			)
		);
	}
	const base = median(raw);
	const name = `an OpenAPI document of ${(bytes.length / 1e6).toFixed(1)} MB, ${operations} operations: read`;
	console.log(`${name.padEnd(58)} ${(median(read) / base).toFixed(1)} × JSON.parse (${Math.round(median(read))} ms)`);
	const growth = before ? `, × 4 size → × ${(median(made) / before).toFixed(1)} time` : '';
	console.log(
		`${'  and made into a collection'.padEnd(58)} ${(median(made) / base).toFixed(1)} × JSON.parse (${Math.round(median(made))} ms)${growth}`
	);
	return median(made);
}

/** Holds one reply of each operation that has one against its schema, in a process that has seen none; gives the milliseconds. */
async function judged(paths: number, before?: number): Promise<number> {
	const operations = operationsOf(readOpenapi('definitions/x.json', () => document(paths, 20, false)));
	const validate = createSchemas(() => undefined);
	const body = new TextEncoder().encode('{"id": 1, "name": "a"}');
	const phases = { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 };
	const from = performance.now();
	let count = 0;
	for (const operation of operations) {
		if (operation.method === 'DELETE') continue;
		const status = operation.method === 'POST' ? 201 : 200;
		const reply = {
			status,
			reason: '',
			version: 'HTTP/1.1',
			headers: [['Content-Type', 'application/json']] as [string, string][],
			body,
			wireSize: body.length,
			phases,
			reused: false
		};
		const faults = await replyFaults(viewReply(reply), operation, validate);
		if (faults.length > 0) throw new Error(faults[0]!.message);
		count++;
	}
	const took = performance.now() - from;
	const growth = before ? `, × 4 size → × ${(took / before).toFixed(1)} time` : '';
	console.log(
		`${`${count} replies by ${paths} schemas that all know each other`.padEnd(58)} ${Math.round(took)} ms${growth}`
	);
	return took;
}

/** Tells what another version of a document has otherwise, for the page and for an import again; gives the milliseconds. */
function compared(paths: number, before?: number): number {
	const text = document(paths, 20, false);
	const other = text.replace('"Thing3":{"type":"object"', '"Thing3":{"minProperties":2,"type":"object"');
	const [was, is] = [text, other].map((one) => readOpenapi('definitions/x.json', () => one));
	const took = time(() => {
		if (compareDefinitions(was!, is!).length === 0) throw new Error('nothing is different');
		const now = operationsOf(is!);
		for (const [at, one] of operationsOf(was!).entries()) changesBetween(one, now[at]!);
	});
	const growth = before ? `, × 4 size → × ${(took / before).toFixed(1)} time` : '';
	console.log(`${`two versions of ${paths} such schemas compared`.padEnd(58)} ${Math.round(took)} ms${growth}`);
	return took;
}

measure(document(240, 64, true), 1200);
const small = measure(document(500, 20, false), 2500);
measure(document(2000, 20, false), 10_000, small);
await judged(400, await judged(100));
compared(400, compared(100));
