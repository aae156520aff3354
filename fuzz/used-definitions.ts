import { HeronError } from '#core/errors.ts';
import { parseJson, writeJson, type Json } from '#core/model/json.ts';
import type { HeaderList } from '#core/model/reply.ts';
import { viewReply } from '#core/model/view.ts';
import {
	changesBetween,
	compareDefinitions,
	documentWarnings,
	operationsOf,
	pathValues,
	readOpenapi,
	replyFaults,
	requestFaults,
	sampleCall,
	sampleReply,
	viewOperation,
	type OpenapiOperation
} from '#core/openapi/index.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Family } from './family.ts';
import type { Draw } from './mutate.ts';
import { planned, tooLong } from './planned.ts';

const EXAMPLES = join(process.cwd(), 'node_modules/@readme/oas-examples');
const LARGEST = 120_000;
const FILE = 'definitions/fuzzed.json';
const ODD: readonly Json[] = [
	...[
		null,
		true,
		false,
		0,
		-1,
		5.5,
		1e300,
		9007199254740993n,
		'',
		' ',
		'x',
		'5',
		'true',
		'{',
		'{}',
		'/',
		'#',
		'#/',
		'{a}{b}'
	],
	...[[], {}, [[]], [null], ['a', 'a'], { $ref: '#' }, { $ref: '#/components' }, { $ref: 'x' }, { $ref: 5 }],
	...[
		{ '': {} },
		{ __proto__x: 1 },
		{ type: 'object', allOf: [{}] },
		'application/json',
		'2XX',
		'default',
		'https://x{y}'
	]
];

/** All places of a value: what holds it, and under which key. */
function placesIn(value: Json): [holder: Record<string, Json>, key: string][] {
	const places: [Record<string, Json>, string][] = [];
	const waiting: Json[] = [value];
	for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
		if (typeof next === 'object' && next !== null)
			for (const [key, one] of Object.entries(next)) {
				places.push([next as unknown as Record<string, Json>, key]);
				waiting.push(one as Json);
			}
	return places;
}

/** Changes a document in one to five places, so that it stays JSON. */
function change(document: Json, draw: Draw): void {
	for (let count = 1 + draw.below(5); count > 0; count--) {
		const places = placesIn(document);
		if (places.length === 0) return;
		const [holder, key] = draw.of(places);
		const [other, otherKey] = draw.of(places);
		const copy = (value: Json) => parseJson(writeJson(value));
		draw.of<() => void>([
			() => void (holder[key] = copy(draw.of(ODD))),
			() => void (holder[key] = copy(draw.of(ODD))),
			() => {
				if (Array.isArray(holder)) holder.splice(Number(key), 1);
				else delete holder[key];
			},
			() => {
				const value = holder[key]!;
				if (!Array.isArray(holder)) delete holder[key];
				holder[Array.isArray(holder) ? key : otherKey] = value;
			},
			() => void (holder[key] = copy(other[otherKey]!)),
			() => void (holder[key] = [copy(holder[key]!)]),
			() =>
				void (holder[key] =
					typeof holder[key] === 'string'
						? holder[key] + draw.of(['/', '{x}', '~1', ' ', '%', '?a=b', '#c'])
						: String(holder[key]))
		])();
	}
}

/** Documents that others wrote, changed: whatever is made of one fits itself, and whatever uses one ends, in words or well. */
export const usedDefinitions: Family = {
	name: 'used definitions',
	async open() {
		const texts = ['2.0', '3.0', '3.1'].flatMap((version) =>
			readdirSync(join(EXAMPLES, version, 'json'))
				.filter((file) => file.endsWith('.json'))
				.map((file) => readFileSync(join(EXAMPLES, version, 'json', file), 'utf8'))
				.filter((text) => text.length < LARGEST)
		);
		return {
			async once(draw) {
				const before = draw.of(texts);
				const value = parseJson(before);
				change(value, draw);
				const text = writeJson(value);
				const start = process.cpuUsage();
				try {
					const fault = planned([{ path: 'fuzzed.json', bytes: Buffer.from(text) }]) ?? (await used(before, text));
					if (fault) return fault;
				} catch (error) {
					if (!(error instanceof HeronError)) throw error;
				}
				return tooLong(start);
			}
		};
	}
};

/** Each operation as the pages, runs and stand-ins use it. */
async function used(before: string, text: string): Promise<string | undefined> {
	const document = readOpenapi(FILE, (path) => (path === FILE ? text : undefined));
	const unchanged = readOpenapi(FILE, (path) => (path === FILE ? before : undefined));
	const old = operationsOf(unchanged);
	const operations = operationsOf(document);
	writeJson(documentWarnings(document));
	writeJson(compareDefinitions(unchanged, document) as unknown as Json);
	const validate = createSchemas(() => undefined);
	for (const operation of operations.slice(0, 20)) {
		const twin = old.find(({ method, template }) => method === operation.method && template === operation.template);
		for (const part of [
			() => writeJson(viewOperation(operation)),
			() => twin && writeJson(changesBetween(twin, operation)),
			() => pathValues(operation, operation.template.replace(/[{}]/g, ''), ''),
			() => called(operation, validate),
			() => answered(operation, validate)
		])
			try {
				await part();
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
				if (error.code === 'schema.wrong' && !/leads back to itself|nested|without end/.test(error.message))
					return `${operation.method} ${operation.template}: ${error.message}`;
			}
	}
	return undefined;
}

const viewOf = (status: number, headers: HeaderList, body: Uint8Array) =>
	viewReply({
		...{ reason: '', version: 'HTTP/1.1', reused: false, status, headers, body, wireSize: body.length },
		phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
	});

async function called(operation: OpenapiOperation, validate: ReturnType<typeof createSchemas>): Promise<void> {
	for (const fill of ['minimal', 'full'] as const) writeJson(sampleCall(operation, fill) as unknown as Json);
	const view = viewOf(200, [], Buffer.from('{"a":1}'));
	for (const type of ['application/json', 'application/xml'])
		await requestFaults({ path: {}, search: '?a=1&b=2', headers: [['Content-Type', type]], view }, operation, validate);
}

async function answered(operation: OpenapiOperation, validate: ReturnType<typeof createSchemas>): Promise<void> {
	const { status, headers, body } = sampleReply(operation);
	await replyFaults(viewOf(status, headers, body), operation, validate);
	await replyFaults(
		viewOf(200, [['Content-Type', 'application/json']], Buffer.from('[1,{"a":null}]')),
		operation,
		validate
	);
}
