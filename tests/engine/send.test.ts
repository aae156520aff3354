import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS } from '#core/documents/connection.ts';
import { headerValue, type HeaderList } from '#core/model/reply.ts';
import type { Ports, PreparedRequest, SendOutcome } from '#core/run/index.ts';
import { createEngine, type Engine } from '#server/engine/index.ts';
import http from 'node:http';
import net from 'node:net';
import zlib from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createMirror } from '../../standins/mirror.ts';
import { hostileServer, type Behaviour } from '../support/hostile.ts';

type Mirror = Awaited<ReturnType<typeof createMirror>>;
let engine: Engine;
let ports: Ports;
let mirror: Mirror;
let base: string;
let hostile: Awaited<ReturnType<typeof hostileServer>>;

const head = (more = '') => `HTTP/1.1 200 OK\r\nContent-Type: text/plain\r\n${more}\r\n`;
const behaviours: Record<string, Behaviour> = {
	reset: (socket) => socket.resetAndDestroy(),
	silent: () => {},
	middle: (socket) => {
		socket.write(head('Content-Length: 100\r\n') + 'only this');
		setTimeout(() => socket.destroy(), 20);
	},
	noise: (socket) => socket.end('SSH-2.0-lock-keeper\r\n'),
	chunks: (socket) => socket.end(head('Transfer-Encoding: chunked\r\n') + 'zz\r\nhello\r\n'),
	endless: (socket) => {
		socket.write(head());
		const timer = setInterval(() => socket.write(Buffer.alloc(100_000, 'x')), 1);
		socket.on('close', () => clearInterval(timer));
	},
	drip: (socket) => {
		socket.write(head('Content-Length: 1000000\r\n'));
		const timer = setInterval(() => socket.write('x'), 20);
		socket.on('close', () => clearInterval(timer));
	},
	headers: (socket) => socket.end(head(`X-Long: ${'y'.repeat(400_000)}\r\n`)),
	line: (socket, text) => socket.end(head() + text.split('\r\n')[0]),
	untilClose: (socket) => socket.end(head() + 'to the end'),
	twice: (socket) => socket.end(head('X-A: 1\r\nx-a: 2\r\nContent-Length: 0\r\n')),
	close: (socket) => {
		socket.write(head('Content-Length: 2\r\nConnection: keep-alive\r\n') + 'ok');
		setTimeout(() => socket.destroy(), 5);
	}
};

beforeAll(async () => {
	engine = createEngine({ body: 3_000_000, header: 64_000 });
	ports = engine.ports({ seed: 1 });
	mirror = await createMirror();
	base = await mirror.listen({ host: '127.0.0.1', port: 0 });
	hostile = await hostileServer(behaviours);
});
afterAll(async () => {
	engine.close();
	await mirror.close();
	await hostile.close();
});

function request(url: string, more: Partial<PreparedRequest> = {}): PreparedRequest {
	const headers: HeaderList = more.headers ?? [['Host', new URL(url).host]];
	return {
		method: 'GET',
		url,
		origins: headers.map(() => 'added'),
		body: new Uint8Array(),
		timeouts: DEFAULT_TIMEOUTS,
		redirects: { follow: 5, keepMethod: false, keepCredentials: false },
		...more,
		headers
	};
}
const send = (url: string, more: Partial<PreparedRequest> = {}, signal?: AbortSignal): Promise<SendOutcome> =>
	ports.send(request(url, more), ports.openSession(), signal);
const replyOf = (outcome: SendOutcome) => outcome.exchanges.at(-1)!.reply!;
const textOf = (outcome: SendOutcome) => Buffer.from(replyOf(outcome).body).toString('utf8');
const quick = { connect: 1000, reply: 150, whole: 5000 };

describe('what goes out', () => {
	test('headers keep order, case and number, and nothing is added', async () => {
		const headers: HeaderList = [
			['x-B', '2'],
			['HOST', 'elsewhere.example'],
			['X-a', '1'],
			['x-B', '3'],
			['Connection', 'close']
		];
		const outcome = await send(`${base}/x`, { headers });
		expect((JSON.parse(textOf(outcome)) as { headers: unknown }).headers).toEqual(headers);
	});
	test('a body goes out byte for byte, with any method', async () => {
		const body = Uint8Array.from({ length: 256 }, (_, i) => i);
		const odd = await send(`${hostile.url}/line`, { method: 'PROPFIND' });
		expect(textOf(odd)).toBe('PROPFIND /line HTTP/1.1');
		const put = await send(`${base}/x?a=1&a=2`, {
			method: 'PUT',
			body,
			headers: [
				['Host', 'h'],
				['Content-Length', '256']
			]
		});
		const seen = JSON.parse(textOf(put)) as { bodyBase64: string; target: string };
		expect(seen.bodyBase64).toBe(Buffer.from(body).toString('base64'));
		expect(seen.target).toBe('/x?a=1&a=2');
	});
	test('a kept connection is used again and says so', async () => {
		await send(`${base}/one`);
		const second = replyOf(await send(`${base}/two`));
		expect(second.reused).toBe(true);
		expect(second.phases).toMatchObject({ name: 0, connect: 0, tls: 0 });
	});
	test('a fresh connection has its phases', async () => {
		const fresh = createEngine();
		const outcome = await fresh.ports({ seed: 1 }).send(request(`${base}/delay/40`), ports.openSession(), undefined);
		const { phases, reused } = replyOf(outcome);
		expect(reused).toBe(false);
		expect(phases.connect).toBeGreaterThan(0);
		expect(phases.wait).toBeGreaterThan(35);
		expect(phases.total).toBeGreaterThanOrEqual(phases.wait);
		fresh.close();
	});
});

describe('what comes back', () => {
	test.each(['gzip', 'br', 'deflate', 'raw'])('a body coded %s is decoded', async (coding) => {
		const outcome = await send(`${base}/coded/${coding}`);
		expect(JSON.parse(textOf(outcome))).toMatchObject({ method: 'GET' });
		expect(replyOf(outcome).note).toBeUndefined();
	});
	test('zstd is decoded', async () => {
		// a frame made by the reference tool
		const frame = Buffer.from('28b52ffd0468cd0000986865726f6e202c206c6f636b206b65657065720100994b11d7672b38', 'hex');
		const server = http
			.createServer((_, res) => res.writeHead(200, { 'content-encoding': 'zstd' }).end(frame))
			.listen(0, '127.0.0.1');
		await new Promise((resolve) => server.once('listening', resolve));
		const outcome = await send(`http://127.0.0.1:${(server.address() as net.AddressInfo).port}/`);
		expect(replyOf(outcome).note).toBeUndefined();
		expect(textOf(outcome)).toBe('heron heron heron heron, lock keeper');
		server.close();
	});
	test('a coding that the header promises but the body is not: the bytes as they came, and a note', async () => {
		const server = http
			.createServer((_, res) => res.writeHead(200, { 'content-encoding': 'gzip' }).end('not gzip'))
			.listen(0, '127.0.0.1');
		await new Promise((resolve) => server.once('listening', resolve));
		const outcome = await send(`http://127.0.0.1:${(server.address() as net.AddressInfo).port}/`);
		expect(textOf(outcome)).toBe('not gzip');
		expect(replyOf(outcome).note).toContain('gzip');
		server.close();
	});
	const text = JSON.stringify(Array.from({ length: 500 }, (_, n) => ({ n, lock: `Staithe ${n}` })));
	test.each([
		['gzip', zlib.gzipSync(text)],
		['br', zlib.brotliCompressSync(text)],
		['deflate', zlib.deflateSync(text)]
	])('data coded %s that end early: what came of them, and a note', async (coding, data) => {
		const server = http
			.createServer((_, res) => res.writeHead(200, { 'content-encoding': coding }).end(data.subarray(0, -3)))
			.listen(0, '127.0.0.1');
		await new Promise((resolve) => server.once('listening', resolve));
		const outcome = await send(`http://127.0.0.1:${(server.address() as net.AddressInfo).port}/`);
		expect(text.startsWith(textOf(outcome))).toBe(true);
		expect(textOf(outcome).length).toBeGreaterThan(text.length / 2);
		expect(replyOf(outcome).note).toBe(`the body ends in the middle of its ${coding} data: what came of them is shown`);
		server.close();
	});
	test('a body that is coded for the transfer is decoded (RFC 9112 section 7)', async () => {
		const data = zlib.gzipSync(text);
		const server = net.createServer((socket) => {
			socket
				.on('error', () => {})
				.once('data', () => {
					socket.write(`HTTP/1.1 200 OK\r\nTransfer-Encoding: gzip, chunked\r\n\r\n${data.length.toString(16)}\r\n`);
					socket.write(data);
					socket.write('\r\n0\r\n\r\n');
				});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const outcome = await send(`http://127.0.0.1:${(server.address() as net.AddressInfo).port}/`);
		expect(textOf(outcome)).toBe(text);
		expect(replyOf(outcome).note).toBeUndefined();
		server.close();
	});
	test('a body that unpacks to 80 MB is cut at the cap', async () => {
		const reply = replyOf(await send(`${base}/bomb`));
		expect(reply.body.length).toBe(3_000_000);
		expect(reply.cut).toContain('cut at 3 MB after decoding');
	});
	test('a body of 200 MB is cut at the cap, at once', async () => {
		const reply = replyOf(await send(`${base}/bytes/200000000`));
		expect(reply.body.length).toBe(3_000_000);
		expect(reply.cut).toBe('cut at 3 MB');
	});
	test('a body without end is cut at the cap', async () => {
		expect(replyOf(await send(`${hostile.url}/endless`)).cut).toBe('cut at 3 MB');
	});
	test('a body up to the close of the connection is whole', async () => {
		expect(textOf(await send(`${hostile.url}/untilClose`))).toBe('to the end');
	});
	test('header fields of one name stay apart', async () => {
		const reply = replyOf(await send(`${hostile.url}/twice`));
		expect(reply.headers.filter(([name]) => name.toLowerCase() === 'x-a')).toEqual([
			['X-A', '1'],
			['x-a', '2']
		]);
		expect(headerValue(reply.headers, 'X-A')).toBe('1, 2');
	});
	test('HEAD has no body, whatever its header says', async () => {
		const reply = replyOf(await send(`${base}/coded/gzip`, { method: 'HEAD' }));
		expect(reply.body.length).toBe(0);
	});
});

describe('redirects', () => {
	test('each hop is an exchange', async () => {
		const outcome = await send(`${base}/redirect/2`);
		expect(outcome.exchanges.map((e) => e.reply!.status)).toEqual([302, 302, 302, 200]);
		expect(outcome.exchanges.at(-1)!.url).toBe(`${base}/arrived`);
	});
	test('303 turns to GET without the body', async () => {
		const outcome = await send(`${base}/see-other`, {
			method: 'POST',
			body: Buffer.from('x'),
			headers: [
				['Host', 'h'],
				['Content-Length', '1'],
				['Content-Type', 'text/plain']
			]
		});
		expect(JSON.parse(textOf(outcome))).toMatchObject({ method: 'GET', body: '' });
	});
	test('307 keeps method and body', async () => {
		const outcome = await send(`${base}/moved`, {
			method: 'POST',
			body: Buffer.from('x'),
			headers: [
				['Host', 'h'],
				['Content-Length', '1']
			]
		});
		expect(JSON.parse(textOf(outcome))).toMatchObject({ method: 'POST', body: 'x' });
	});
	test('a loop ends, with all that came', async () => {
		const outcome = await send(`${base}/loop`, { redirects: { ...DEFAULT_REDIRECTS, follow: 3 } });
		expect(outcome.error?.code).toBe('send.redirects');
		expect(outcome.exchanges).toHaveLength(4);
	});
	test('none are followed when none are wanted', async () => {
		expect(replyOf(await send(`${base}/loop`, { redirects: { ...DEFAULT_REDIRECTS, follow: 0 } })).status).toBe(302);
	});
	describe('where a Location leads', () => {
		const answers = (location: string) => (socket: net.Socket) =>
			socket.end(Buffer.from(`HTTP/1.1 302 Found\r\n${location}Content-Length: 0\r\n\r\n`));
		test.each<[string, string, string]>([
			['bytes of UTF-8 stay what they are', 'Location: /ünï?ä=%C3%A4\r\n', '/%C3%BCn%C3%AF?%C3%A4=%C3%A4'],
			['the same twice is the same', 'Location: /line\r\nLocation: /line\r\n', '/line']
		])('%s', async (_, location, path) => {
			const server = await hostileServer({ '': answers(location), [path.slice(1).split('?')[0]!]: behaviours.line! });
			const outcome = await send(`${server.url}/`);
			expect(outcome.exchanges[1]!.url).toBe(server.url + path);
			await server.close();
		});
		test.each<[string, string, string]>([
			['nowhere', '', 'no Location says where to'],
			['no address', 'Location: http://[::1\r\n', 'Location is no address: http://[::1'],
			['a script', 'Location: javascript:x\r\n', 'Location leads neither to http nor to https: javascript:x'],
			['a file', 'Location: file:///etc/passwd\r\n', 'Location leads neither to http nor to https: file:///etc/passwd'],
			['two places', 'Location: /a\r\nLocation: /b\r\n', 'Location stands twice, and does not say the same']
		])('%s is not followed, and that is said', async (_, location, said) => {
			const server = await hostileServer({ '': answers(location) });
			const outcome = await send(`${server.url}/`);
			expect(outcome.error).toBeUndefined();
			expect(outcome.exchanges.map(({ notes }) => notes)).toEqual([[`the redirect was not followed: ${said}`]]);
			await server.close();
		});
	});
	test('what proves who we are goes to no other host', async () => {
		const other = await createMirror();
		const there = await other.listen({ host: '127.0.0.1', port: 0 });
		const server = http
			.createServer((_, res) => res.writeHead(302, { location: `${there}/x` }).end())
			.listen(0, '127.0.0.1');
		await new Promise((resolve) => server.once('listening', resolve));
		const outcome = await send(`http://127.0.0.1:${(server.address() as net.AddressInfo).port}/`, {
			headers: [
				['Host', 'h'],
				['Authorization', 'Bearer x'],
				['X-Kept', '1']
			]
		});
		const names = (JSON.parse(textOf(outcome)) as { headers: [string, string][] }).headers.map(([name]) => name);
		expect(names).toContain('X-Kept');
		expect(names).not.toContain('Authorization');
		server.close();
		await other.close();
	});
});

test('cookies live as long as the session', async () => {
	const session = ports.openSession();
	await ports.send(request(`${base}/cookies/set?lock=mill`), session, undefined);
	expect(session.cookiesFor(`${base}/x`)).toBe('lock=mill');
	expect(session.cookiesFor('http://elsewhere.example/')).toBe('');
	expect(ports.openSession().cookiesFor(`${base}/x`)).toBe('');
});

describe('what goes wrong is told apart', () => {
	test('nothing listens', async () => {
		const free = await hostileServer({});
		await free.close();
		const { error } = await send(`${free.url}/`);
		expect(error?.code).toBe('send.refused');
		expect(error?.message).toContain(`127.0.0.1:${free.port}`);
	});
	test('a name that does not resolve', async () => {
		expect((await send('http://no-such-host.invalid/')).error?.code).toBe('send.name');
	});
	test.each<[string, string, RegExp]>([
		['reset', 'send.reset', /before an answer came/],
		['middle', 'send.reset', /middle of the body, after 9 B/],
		['noise', 'send.notHttp', /SSH-2\.0-lock-keeper/],
		['chunks', 'send.failed', /framing is broken/],
		['headers', 'send.headersTooLarge', /larger than 64 kB/]
	])('%s', async (path, code, message) => {
		const outcome = await send(`${hostile.url}/${path}`, { method: 'POST' });
		expect(outcome.error?.code).toBe(code);
		expect(outcome.error?.message).toMatch(message);
		expect(outcome.exchanges.at(-1)?.error?.code).toBe(code);
	});
	test('no answer in time', async () => {
		const { error } = await send(`${hostile.url}/silent`, { timeouts: quick });
		expect(error?.message).toBe('waiting for the answer took longer than 150 ms');
	});
	test('an answer that drips for ever', async () => {
		const { error } = await send(`${hostile.url}/drip`, { timeouts: { ...quick, whole: 300 } });
		expect(error?.message).toBe('the whole exchange took longer than 300 ms');
	});
	test('TLS spoken to a server that has none', async () => {
		expect(
			(await send(`https://127.0.0.1:${hostile.port}/noise`, { timeouts: { ...quick, connect: 500 } })).error?.code
		).toMatch(/send\.(tls|timeout|reset)/);
	});
	test('stopping ends it at once', async () => {
		const stop = new AbortController();
		setTimeout(() => stop.abort(), 30);
		expect((await send(`${hostile.url}/silent`, {}, stop.signal)).error?.code).toBe('send.cancelled');
	});
	test('a connection that the server closed while it was kept is opened anew', async () => {
		await send(`${hostile.url}/close`);
		await new Promise((resolve) => setTimeout(resolve, 2));
		expect(textOf(await send(`${hostile.url}/close`))).toBe('ok');
	});
});
