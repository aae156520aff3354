import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect, test } from 'vitest';
import { runAll } from '../support/project.ts';

test('what is done once in a run gives its cookies to all who call it, and to nobody else', async () => {
	const seen: string[] = [];
	let signedIn = 0;
	const server = http.createServer((request, reply) => {
		if (request.url === '/sign-in') {
			signedIn++;
			reply.setHeader('set-cookie', 'berth=A-01; Path=/');
		} else seen.push(`${request.url} ${request.headers.cookie ?? 'none'}`);
		reply.end('{}');
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	try {
		const results = await runAll({
			connections: { one: { base: `http://127.0.0.1:${(server.address() as AddressInfo).port}` } },
			collections: {
				c: {
					connection: 'one',
					scenarios: [
						...['first', 'second'].map((id) => ({
							id,
							steps: [
								{ id: 'in', call: 'sign-in', once: true },
								{ id: 'look', send: `GET /${id}` }
							]
						})),
						{ id: 'third', steps: [{ id: 'look', send: 'GET /third' }] },
						{ id: 'sign-in', steps: [{ id: 'a', send: 'POST /sign-in' }] }
					]
				}
			}
		});
		expect(results.every(({ outcome }) => outcome === 'passed')).toBe(true);
		// once for those who call it, and once as a scenario of its own
		expect(signedIn).toBe(2);
		expect(seen).toEqual(['/first berth=A-01', '/second berth=A-01', '/third none']);
	} finally {
		server.close();
	}
});
