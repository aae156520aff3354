import net, { type AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { runAll, steps } from '../support/project.ts';

// Field values beyond ASCII: a server on a bare socket, which answers with the bytes that it is told to and keeps what it was sent.
let base = '';
const came: Buffer[] = [];
const server = net.createServer((socket) => {
	socket.on('error', () => {});
	socket.on('data', (data: Buffer) => {
		came.push(data);
		const coding = data.includes('GET /latin') ? 'latin1' : 'utf8';
		const head = 'HTTP/1.1 200 OK\r\nX-Yard: Mühlhof\r\nSet-Cookie: place=Röhr; Path=/\r\nContent-Length: 2\r\n';
		socket.write(Buffer.concat([Buffer.from(head, coding), Buffer.from('Content-Type: application/json\r\n\r\n{}')]));
	});
});
beforeAll(async () => {
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

test.each(['utf8', 'latin'])(
	'a field in %s is read, checked, shown and sent on as the text that it is',
	async (coding) => {
		came.length = 0;
		const [first, second] = await runAll({
			connections: { yard: { base } },
			collections: {
				c: steps(
					[
						{
							send: `GET /${coding}`,
							checks: [
								{ header: 'X-Yard', equals: 'Mühlhof' },
								{ cookie: 'place', equals: 'Röhr' },
								{ that: "$response.headers.`x-yard` = 'Mühlhof'" }
							],
							keep: { yard: 'header:X-Yard' }
						},
						{
							send: 'POST /on',
							headers: { 'X-From': '{$steps.s0.yard}' },
							body: { json: { from: '{$steps.s0.yard}' } },
							checks: [{ that: "$request.headers.`x-from` = 'Mühlhof'" }]
						}
					],
					{ connection: 'yard' }
				)
			}
		});
		expect(first!.checks.filter(({ holds }) => !holds)).toEqual([]);
		expect(second!.checks.filter(({ holds }) => !holds)).toEqual([]);
		expect(first!.exchanges[0]!.reply!.headers).toContainEqual(['X-Yard', 'Mühlhof']);
		expect(second!.exchanges[0]!.requestHeaders).toContainEqual(['X-From', 'Mühlhof']);
		const sent = Buffer.concat(came.slice(1)).toString('utf8');
		expect(sent).toContain('X-From: Mühlhof\r\n');
		expect(sent).toContain('"from":"Mühlhof"');
		// a cookie goes back byte for byte
		expect(
			Buffer.concat(came.slice(1)).includes(Buffer.from('place=Röhr', coding === 'utf8' ? 'utf8' : 'latin1'))
		).toBe(true);
	}
);
