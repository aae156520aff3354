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
import { changeJson } from './mutate.ts';
import { planned, tooLong } from './planned.ts';

const EXAMPLES = join(process.cwd(), 'node_modules/@readme/oas-examples');
const LARGEST = 120_000;
const FILE = 'definitions/fuzzed.json';
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
				changeJson(value, draw);
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
