import http2 from 'node:http2';
import type { AddressInfo } from 'node:net';
import zlib from 'node:zlib';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { authorityPem, makeIdentity } from '../../standins/gatehouse/certificates.ts';
import { runAll, steps } from '../support/project.ts';

let server: http2.Http2SecureServer;
let base: string;
const text = JSON.stringify({ readings: 'x'.repeat(400_000) });
beforeAll(async () => {
	const packed = zlib.gzipSync(text);
	server = http2.createSecureServer(await makeIdentity({ name: 'lock' }), (request, response) => {
		if (request.url === '/cut') {
			response.writeHead(200, { 'content-type': 'application/json' });
			response.write('{"half":');
			setTimeout(() => response.stream.close(http2.constants.NGHTTP2_INTERNAL_ERROR), 20);
			return;
		}
		response.writeHead(200, { 'content-type': 'application/json', 'content-encoding': 'gzip' });
		response.end(packed);
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	base = `https://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

const send = (calls: string[]) =>
	runAll({
		connections: { one: { base, http: '2', tls: { authorities: ['files/authority.pem'] } } },
		collections: { c: steps(calls.map((call) => ({ send: call }))) },
		files: { 'files/authority.pem': authorityPem }
	});

test('a coded body is whole, though its stream is closed before it is decoded', async () => {
	const results = await send(Array.from({ length: 20 }, () => 'GET /'));
	expect(results.map((result) => result.error?.message)).toEqual(results.map(() => undefined));
	for (const { exchanges } of results) expect(exchanges.at(-1)!.reply!.body).toHaveLength(text.length);
});
test('a stream that ends in the middle of the body is an error', async () => {
	const [result] = await send(['GET /cut']);
	expect(result!.outcome).toBe('error');
	expect(result!.exchanges.at(-1)!.reply).toBeUndefined();
});
