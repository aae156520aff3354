import { readFile } from 'node:fs/promises';
import Ajv2020 from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { parse } from 'yaml';
import { createLedger } from '../../standins/tolls/ledger.ts';
import { createMoorings } from '../../standins/moorings/index.ts';

type Server = Awaited<ReturnType<typeof createMoorings>>;
type Definition = {
	paths: Record<
		string,
		Record<string, { responses: Record<string, { content?: Record<string, { schema: object }> }> }>
	>;
	components: object;
};
let server: Server;
let base: string;
let definition: Definition;
let token: string;
const ajv = new Ajv2020({ strict: false });
addFormats.default(ajv);
const seen = new Set<string>();

beforeAll(async () => {
	server = await createMoorings('local', createLedger());
	base = `${await server.listen({ host: '127.0.0.1', port: 0 })}/v1`;
	definition = (await (await fetch(`${base}/openapi.json`)).json()) as Definition;
	token = (
		(await call('POST', '/sessions', '/sessions', { user: 'avery', password: 'lock-gate-9' })) as { token: string }
	).token;
});
afterAll(() => server.close());

/** Calls an operation and holds the answer against the definition. */
async function call(method: string, template: string, path: string, body?: unknown, signedIn = true): Promise<unknown> {
	const form = body instanceof FormData;
	const headers: Record<string, string> = {
		...(body && !form ? { 'content-type': 'application/json' } : {}),
		...(signedIn && token ? { authorization: `Bearer ${token}` } : {})
	};
	const init = body === undefined ? {} : { body: form ? body : JSON.stringify(body) };
	const reply = await fetch(base + path, { method, headers, ...init });
	const answer = definition.paths[template]?.[method.toLowerCase()]?.responses[String(reply.status)];
	expect(answer, `${method} ${template} answers ${reply.status}`).toBeDefined();
	seen.add(`${method} ${template} ${reply.status}`);
	const type = reply.headers.get('content-type')?.split(';')[0] ?? '';
	const text = await reply.text();
	if (!answer!.content) {
		expect(text).toBe('');
		return undefined;
	}
	const schema = answer!.content[type]?.schema;
	expect(schema, `${method} ${template} ${reply.status} as ${type}`).toBeDefined();
	const validate = ajv.compile({ ...schema, components: definition.components });
	const data: unknown = JSON.parse(text);
	expect(validate(data), `${method} ${path}: ${JSON.stringify(validate.errors)}`).toBe(true);
	return data;
}
const permit = (scan: string) => {
	const form = new FormData();
	form.append('details', new Blob([JSON.stringify({ boat: 'Slow Tide' })], { type: 'application/json' }));
	form.append('scan', new Blob([scan]), 'permit.pdf');
	return form;
};

test('the answers are those of the definition, good and bad', async () => {
	await call('GET', '/health', '/health');
	await call('POST', '/sessions', '/sessions', { user: 'avery', password: 'x' });
	const page = (await call('GET', '/moorings', '/moorings?state=free&size=3')) as {
		items: { id: string; state: string }[];
		links: { next: string };
	};
	expect(page.items.every((item) => item.state === 'free')).toBe(true);
	await call('GET', '/moorings', page.links.next);
	await call('GET', '/moorings', '/moorings?size=0');
	await call('GET', '/moorings/{id}', '/moorings/A-01');
	await call('GET', '/moorings/{id}', '/moorings/Z-99');
	const wanted = { mooring: 'A-01', boat: 'Slow Tide', from: '2027-05-14', nights: 3 };
	await call('POST', '/bookings', '/bookings', wanted, false);
	const booking = (await call('POST', '/bookings', '/bookings', wanted)) as { reference: string };
	await call('POST', '/bookings', '/bookings', wanted);
	await call('POST', '/bookings', '/bookings', { nights: 99 });
	const at = `/bookings/${booking.reference}`;
	await call('GET', '/bookings/{reference}', at);
	await call('GET', '/bookings/{reference}', '/bookings/RW-000000');
	await call('PUT', '/bookings/{reference}', at, { ...wanted, nights: 5 });
	await call('PATCH', '/bookings/{reference}', at, { nights: 4 });
	await call('PATCH', '/bookings/{reference}', at, { nights: 0 });
	await call('GET', '/noticeboard/{reference}', `/noticeboard/${booking.reference}`);
	await call('DELETE', '/bookings/{reference}', at);
	await call('DELETE', '/bookings/{reference}', at);
	await call('PATCH', '/bookings/{reference}', at, { nights: 2 });
	await call('GET', '/gauges', '/gauges');
	const first = (await call('POST', '/permits', '/permits', permit('one'))) as { id: string; updatedAt: string };
	expect(first.id).toMatch(/^P-/);
	await call('POST', '/permits', '/permits', { no: 'form' });
	const second = (await call('PUT', '/permits/{id}', `/permits/${first.id}`, permit('two'))) as { updatedAt: string };
	expect(second.updatedAt > first.updatedAt).toBe(true);
	await call('GET', '/permits/{id}', `/permits/${first.id}`);
	await call('DELETE', '/permits/{id}', `/permits/${first.id}`);
	await call('GET', '/permits/{id}', `/permits/${first.id}`);
	await call('GET', '/slow', '/slow?ms=5');
	for (let i = 0; i < 3; i++) await call('GET', '/flaky', '/flaky');
	for (let i = 0; i < 5; i++) await call('GET', '/limited', '/limited');
	await call('POST', '/reset', '/reset');
	expect(seen.size).toBeGreaterThan(30);
	const operations = Object.entries(definition.paths).flatMap(([path, item]) =>
		Object.keys(item).map((method) => `${method.toUpperCase()} ${path}`)
	);
	expect(operations.filter((operation) => ![...seen].some((one) => one.startsWith(`${operation} `)))).toEqual([]);
});

test('the demo project holds the definition that the service itself gives', async () => {
	const text = await readFile(new URL('../../demo/reedmere/definitions/moorings.yaml', import.meta.url), 'utf8');
	const { servers, ...kept } = parse(text) as { servers: unknown };
	expect(servers).toEqual([{ url: '/v1' }]);
	expect({ ...definition, servers }).toEqual({ ...kept, servers });
});
