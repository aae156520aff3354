import { DEFAULT_TIMEOUTS } from '#core/documents/connection.ts';
import type { HeaderList } from '#core/model/reply.ts';
import type { Ports, PreparedRequest, SendOutcome } from '#core/run/index.ts';
import { createEngine, type Engine } from '#server/engine/index.ts';
import { createServer, type ServerResponse } from 'node:http';
import http2 from 'node:http2';
import net from 'node:net';
import { Worker } from 'node:worker_threads';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { hostileServer, type Behaviour } from '../support/hostile.ts';

let engine: Engine;
let ports: Ports;
let server: Awaited<ReturnType<typeof hostileServer>>;
let asked: string[] = [];

const ok = (body: string, more = '') => `HTTP/1.1 200 OK\r\nContent-Length: ${body.length}\r\n${more}\r\n${body}`;
const answers: Record<string, Behaviour> = {
	plain: (socket) => socket.write(ok('plain')),
	// a second answer comes a moment later, when nobody has asked
	resetFresh: (socket) => socket.resetAndDestroy(),
	nothingHere: (socket) => socket.write('HTTP/1.1 204 No Content\r\n\r\na body all the same'),
	unchanged: (socket) => socket.write('HTTP/1.1 304 Not Modified\r\nContent-Length: 4\r\n\r\nbody'),
	head: (socket) => socket.write(ok('a body for HEAD')),
	longer: (socket) => socket.write(`HTTP/1.1 200 OK\r\nContent-Length: 5\r\n\r\nfive and more`),
	switches: (socket) =>
		socket.write('HTTP/1.1 101 Switching Protocols\r\nUpgrade: heron\r\nConnection: Upgrade\r\n\r\n'),
	five: (socket) => {
		socket.write('HTTP/1.1 200 OK\r\nContent-Length: 100\r\n\r\nfive.');
		setTimeout(() => socket.resetAndDestroy(), 30);
	},
	badLength: (socket) => socket.end('HTTP/1.1 200 OK\r\nX-A: 1\r\nContent-Length: five\r\n\r\nx'),
	badHeader: (socket) => socket.end('HTTP/1.1 200 OK\r\nX A: 1\r\n\r\n'),
	folded: (socket) => socket.end('HTTP/1.1 200 OK\r\nX-A: one\r\n  two\r\n\r\n'),
	badStatus: (socket) => socket.end('HTTP/1.1 2x0 OK\r\n\r\n'),
	two: (socket) => socket.end('HTTP/1.1 200 OK\r\nContent-Length: 2\r\nContent-Length: 3\r\n\r\nok')
};

beforeAll(async () => {
	engine = createEngine({ body: 3_000_000, header: 64_000 });
	ports = engine.ports({ seed: 1 });
	server = await hostileServer(
		Object.fromEntries(
			Object.entries(answers).map(([name, act]): [string, Behaviour] => [
				name,
				(socket, text) => {
					asked.push(name);
					act(socket, text);
				}
			])
		)
	);
});
afterAll(async () => {
	engine.close();
	await server.close();
});
beforeEach(() => void (asked = []));

const request = (url: string, more: Partial<PreparedRequest> = {}): PreparedRequest => {
	const headers: HeaderList = [
		['Host', new URL(url).host],
		...(more.body ? [['Content-Length', String(more.body.length)] as [string, string]] : [])
	];
	return {
		...{ method: 'GET', url, headers, origins: headers.map(() => 'added' as const), body: new Uint8Array() },
		...{ timeouts: DEFAULT_TIMEOUTS, redirects: { follow: 5, keepMethod: false, keepCredentials: false } },
		...more
	};
};
const send = (path: string, more: Partial<PreparedRequest> = {}, from = ports): Promise<SendOutcome> =>
	from.send(request(`${server.url}/${path}`, more), from.openSession(), undefined);
const bodyOf = (outcome: SendOutcome) => Buffer.from(outcome.exchanges.at(-1)!.reply?.body ?? []).toString();
const notesOf = (outcome: SendOutcome) => (outcome.exchanges.at(-1)!.notes ?? []).join('\n');

describe('an answer that nobody asked for', () => {
	/** Whether the service has written what nobody asked for. */
	const written = new Int32Array(new SharedArrayBuffer(4));
	/** A service in a thread of its own, which goes on while nobody here does. */
	let service: Worker;
	let url: string;
	beforeAll(async () => {
		service = new Worker(
			`const { parentPort, workerData } = require('node:worker_threads');
			const ok = (body) => 'HTTP/1.1 200 OK\\r\\nContent-Length: ' + body.length + '\\r\\n\\r\\n' + body;
			const told = () => { Atomics.store(workerData, 0, 1); Atomics.notify(workerData, 0); };
			require('node:net').createServer((socket) => socket.on('error', () => {}).on('data', (data) => {
				const double = String(data).startsWith('GET /double');
				socket.write(ok(double ? 'first' : 'plain'));
				if (double) setTimeout(() => socket.write(ok('UNASKED'), told), 15);
			})).listen(0, '127.0.0.1', function () { parentPort.postMessage(this.address().port); });`,
			{ eval: true, workerData: written }
		);
		url = `http://127.0.0.1:${await new Promise<number>((resolve) => service.once('message', resolve))}`;
	});
	afterAll(() => service.terminate());
	const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
	/** Nothing else happens here until it is written, and the system has handed it over. */
	const heldUp = (): void => {
		Atomics.wait(written, 0, 0, 10_000);
		for (const end = performance.now() + 30; performance.now() < end;);
	};
	test.each<[string, () => Promise<void> | void]>([
		['that was read long ago', () => (heldUp(), pause(40))],
		['that nobody had the time to read', heldUp],
		[
			'that nobody had the time to read, and a timer is due first',
			() => {
				const due = pause(5);
				heldUp();
				return due;
			}
		]
	])('never becomes the answer of the next call, and is told once: one %s', async (_, meanwhile) => {
		const own = createEngine();
		const from = own.ports({ seed: 1 });
		const get = (path: string) => from.send(request(`${url}/${path}`), from.openSession(), undefined);
		const notes: string[] = [];
		for (let n = 0; n < 10; n++) {
			Atomics.store(written, 0, 0);
			expect(bodyOf(await get('double'))).toBe('first');
			await meanwhile();
			const next = await get('plain');
			expect(bodyOf(next)).toBe('plain');
			notes.push(notesOf(next));
		}
		expect(notes.filter((note) => /nobody had asked for/.test(note))).toHaveLength(1);
		own.close();
	});
});

describe('a call is sent once', () => {
	test.each(['GET', 'PUT'])(
		'%s over a fresh connection that is reset is an error, and is not sent again',
		async (method) => {
			const own = createEngine();
			const outcome = await send('resetFresh', { method, body: Buffer.from('x') }, own.ports({ seed: 1 }));
			expect(outcome.error?.code).toBe('send.reset');
			expect(asked).toEqual(['resetFresh']);
			own.close();
		}
	);

	/** Answers the first call of each connection, and resets the connection at the second. */
	async function onceEach() {
		const calls: number[] = [];
		let connections = 0;
		const server = net.createServer((socket) => {
			const number = ++connections;
			let seen = 0;
			socket.on('error', () => {});
			socket.on('data', () => {
				calls.push(number);
				if (seen++ > 0) return socket.resetAndDestroy();
				// all are open at the same time, so that all are kept
				setTimeout(() => socket.write('HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\nok'), 100);
			});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const url = `http://127.0.0.1:${(server.address() as net.AddressInfo).port}/`;
		return { url, calls, connections: () => connections, close: () => server.close() };
	}
	test.each<[string, boolean]>([
		['GET', true],
		['PUT', true],
		['POST', false]
	])(
		'%s over a kept connection that fails before an answer goes over a fresh one where it may: %s',
		async (method, again) => {
			const own = createEngine();
			const ports = own.ports({ seed: 1 });
			const server = await onceEach();
			const ask = (method: string) => ports.send(request(server.url, { method }), ports.openSession(), undefined);
			await Promise.all(Array.from({ length: 5 }, () => ask('GET')));
			expect(server.connections()).toBe(5);
			const outcome = await ask(method);
			expect(outcome.error?.code).toBe(again ? undefined : 'send.reset');
			expect(server.connections()).toBe(again ? 6 : 5);
			expect(server.calls.slice(5)).toHaveLength(again ? 2 : 1);
			expect(notesOf(outcome)).toBe(
				again
					? 'a kept connection was closed before an answer came: it was sent once more, on a fresh one'
					: 'the connection had been kept from a call before, and the server may have closed it meanwhile: POST is not sent once more by itself'
			);
			// those that are kept still serve, or fail, as before
			expect((await ask('GET')).error).toBeUndefined();
			own.close();
			server.close();
		}
	);
});

describe('a reply with more than its head allows is given, with a note', () => {
	test.each([
		['nothingHere', {}, 204, ''],
		['unchanged', {}, 304, ''],
		['head', { method: 'HEAD' }, 200, ''],
		['longer', {}, 200, 'five ']
	])('%s', async (path, more, status, body) => {
		const own = createEngine();
		const outcome = await send(path, more, own.ports({ seed: 1 }));
		expect(outcome.error).toBeUndefined();
		expect(outcome.exchanges.at(-1)!.reply!.status).toBe(status);
		expect(bodyOf(outcome)).toBe(body.slice(0, body.length));
		expect(notesOf(outcome)).toMatch(/more bytes came than the reply may have/);
		own.close();
	});
	test('101 is a reply', async () => {
		const outcome = await send('switches');
		expect(outcome.error).toBeUndefined();
		expect(outcome.exchanges.at(-1)!.reply!.status).toBe(101);
		expect(notesOf(outcome)).toMatch(/switched to another protocol/);
	});
});

describe('what is wrong is told with its place', () => {
	test.each([
		['five', /in the middle of the body, after 5 B/],
		['badLength', /Content-Length is no number.*line 3: Content-Length: five/],
		['badHeader', /a header field holds a character that it may not.*line 2: X A: 1/],
		['folded', /goes on in another line.*line 3: {3}two/],
		['badStatus', /status.*line 1: HTTP\/1.1 2x0 OK/],
		['two', /Content-Length stands twice.*line 3/]
	])('%s', async (path, message) => {
		const own = createEngine();
		expect((await send(path, {}, own.ports({ seed: 1 }))).error?.message).toMatch(message);
		own.close();
	});
});

describe('bodies that are read at the same time', () => {
	test.each(['1.1', '2'] as const)('may hold so much together, over HTTP/%s', async (http) => {
		const own = createEngine({ body: 50_000_000, header: 64_000, together: 300_000 });
		const ports = own.ports({ seed: 1 });
		const large = Buffer.alloc(2_000_000, 'x');
		const service = http === '2' ? http2.createServer() : createServer();
		service.on('request', (_: unknown, response: ServerResponse) => {
			response.on('error', () => {});
			response.end(large);
		});
		await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
		const url = `http://127.0.0.1:${(service.address() as net.AddressInfo).port}/`;
		const transport = {
			...{ key: http, http },
			tls: { min: '' as const, max: '' as const, authorities: [], name: '', verify: true }
		};
		const outcomes = await Promise.all(
			Array.from({ length: 4 }, () => ports.send(request(url, { transport }), ports.openSession(), undefined))
		);
		for (const { exchanges } of outcomes) {
			const { cut, body } = exchanges.at(-1)!.reply!;
			expect(cut).toMatch(/all replies that are being read may hold 300 kB together$/);
			expect(body.length).toBeLessThan(400_000);
		}
		// what was read is let go of: the next one has room
		const small = await send('plain', {}, ports);
		expect(small.exchanges.at(-1)!.reply!.cut).toBeUndefined();
		own.close();
		service.close();
	});
});

describe('HTTP/2', () => {
	const transport = {
		key: 'h2',
		http: '2' as const,
		tls: { min: '' as const, max: '' as const, authorities: [], name: '', verify: true }
	};
	/** Answers the first call of each session, and cuts the connection at the second. */
	async function onceEach() {
		const calls: string[] = [];
		let connections = 0;
		const h2 = http2.createServer();
		const sockets: net.Socket[] = [];
		h2.on('connection', (socket: net.Socket) => void sockets.push(socket));
		h2.on('session', (session) => {
			const number = connections++;
			let seen = 0;
			session.on('error', () => {});
			session.on('stream', (stream, headers) => {
				stream.on('error', () => {});
				calls.push(String(headers[':method']));
				if (seen++ > 0) return void sockets[number]!.resetAndDestroy();
				stream.respond({ ':status': 200 });
				stream.end('ok');
			});
		});
		await new Promise<void>((resolve) => h2.listen(0, '127.0.0.1', resolve));
		const url = `http://127.0.0.1:${(h2.address() as net.AddressInfo).port}/`;
		return { url, calls, connections: () => connections, close: () => h2.close() };
	}
	test.each<[string, boolean]>([
		['GET', true],
		['POST', false]
	])(
		'%s over a kept session that is cut before an answer goes over a fresh one where it may: %s',
		async (method, again) => {
			const own = createEngine();
			const ports = own.ports({ seed: 1 });
			const h2 = await onceEach();
			const ask = (wanted: string) =>
				ports.send(request(h2.url, { method: wanted, transport }), ports.openSession(), undefined);
			expect((await ask('GET')).error).toBeUndefined();
			const outcome = await ask(method);
			expect(outcome.error?.code).toBe(again ? undefined : 'send.reset');
			expect(h2.calls).toEqual(['GET', method, ...(again ? [method] : [])]);
			expect(h2.connections()).toBe(again ? 2 : 1);
			expect(notesOf(outcome)).toMatch(
				again ? /^a kept HTTP\/2 session was closed/ : /POST is not sent once more by itself$/
			);
			own.close();
			h2.close();
		}
	);
	test('after a server has said that it goes away, later calls take another session', async () => {
		let streams = 0;
		const h2 = http2.createServer();
		h2.on('session', (session) => {
			session.on('stream', (stream) => {
				streams++;
				stream.respond({ ':status': 200 });
				stream.end(`answer ${streams}`);
				// it has looked at this one, and takes no further
				if (streams % 2 === 1) session.goaway(0, stream.id);
			});
			session.on('error', () => {});
		});
		await new Promise<void>((resolve) => h2.listen(0, '127.0.0.1', resolve));
		const url = `http://127.0.0.1:${(h2.address() as net.AddressInfo).port}/`;
		const own = createEngine();
		const from = own.ports({ seed: 1 });
		for (let n = 1; n <= 8; n++) {
			const outcome = await from.send(request(url, { transport }), from.openSession(), undefined);
			expect(outcome.error?.message).toBeUndefined();
			expect(bodyOf(outcome)).toBe(`answer ${n}`);
		}
		own.close();
		h2.close();
	});
	test('a call above the last stream that was looked at is sent over another session, once, whatever its method', async () => {
		let sessions = 0;
		const seen: string[] = [];
		const h2 = http2.createServer();
		h2.on('session', (session) => {
			const number = ++sessions;
			session.on('error', () => {});
			session.on('stream', (stream, headers) => {
				seen.push(`${number} ${headers[':method']}`);
				stream.on('error', () => {});
				// the first session says that it looked at nothing, and refuses
				if (number === 1) {
					session.goaway(0, 0);
					stream.close(http2.constants.NGHTTP2_REFUSED_STREAM);
				} else {
					stream.respond({ ':status': 201 });
					stream.end('made');
				}
			});
		});
		await new Promise<void>((resolve) => h2.listen(0, '127.0.0.1', resolve));
		const url = `http://127.0.0.1:${(h2.address() as net.AddressInfo).port}/`;
		const own = createEngine();
		const from = own.ports({ seed: 1 });
		const outcome = await from.send(
			request(url, { transport, method: 'POST', body: Buffer.from('{}') }),
			from.openSession(),
			undefined
		);
		expect(outcome.error?.message).toBeUndefined();
		expect(bodyOf(outcome)).toBe('made');
		expect(notesOf(outcome)).toMatch(/sent over another one/);
		expect(seen).toEqual(['1 POST', '2 POST']);
		own.close();
		h2.close();
	});
});
