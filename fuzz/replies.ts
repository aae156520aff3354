import { HeronError } from '#core/errors.ts';
import { viewReply } from '#core/model/view.ts';
import { compileJsonPath } from '#core/selectors/jsonpath.ts';
import { blankRequest } from '#core/run/index.ts';
import { createEngine } from '#server/engine/index.ts';
import { createServer, type AddressInfo, type Socket } from 'node:net';
import type { Family } from './family.ts';
import { mutate, type Draw } from './mutate.ts';

const PATHS = ['$', '$.a', '$..*', '$.items[*].id', '$[?@.id > 5]', '$.items[?@.name == "x"].id'];
const REPLIES = [
	'HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 27\r\n\r\n{"items":[{"id":7},{"a":1}]}',
	'HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n5\r\n{"a":\r\n2\r\n1}\r\n0\r\n\r\n',
	'HTTP/1.1 204 No Content\r\nSet-Cookie: a=b; Path=/\r\n\r\n',
	'HTTP/1.1 302 Found\r\nLocation: /there\r\nContent-Length: 0\r\n\r\n',
	'HTTP/1.1 500 Oops\r\nContent-Type: text/xml; charset=iso-8859-1\r\nContent-Length: 11\r\n\r\n<a><b/></a>',
	'HTTP/1.1 401 Who\r\nWWW-Authenticate: Digest realm="x", nonce="y", qop="auth"\r\nContent-Length: 0\r\n\r\n',
	'HTTP/1.1 100 Continue\r\n\r\nHTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\nok'
];
/** Nothing takes longer: the whole exchange may take 0.7 s. */
const LONGEST_MS = 3000;

/** Replies of a server that follows no rule: a reply or an error in words, in time, and never that of another call. */
export const replies: Family = {
	name: 'replies',
	async open() {
		const engine = createEngine();
		const ports = engine.ports({ seed: 1 });
		let next: { bytes: Buffer; cut: boolean } = { bytes: Buffer.alloc(0), cut: true };
		const sockets = new Set<Socket>();
		const server = createServer((socket) => {
			sockets.add(socket);
			socket.on('close', () => sockets.delete(socket)).on('error', () => {});
			socket.on('data', (data) => {
				// the call behind a fuzzed one says who it is
				const own = /GET \/own\/(\d+) /.exec(data.toString('latin1'))?.[1];
				if (own) return socket.write(`HTTP/1.1 200 OK\r\nContent-Length: ${own.length}\r\n\r\n${own}`);
				socket.write(next.bytes);
				if (next.cut) socket.end();
			});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		const session = ports.openSession();
		const ask = (path: string) =>
			ports.send(
				{
					...blankRequest('GET', `${base}${path}`, 'fuzz'),
					headers: [['Host', base.slice(7)]],
					origins: ['added'],
					timeouts: { connect: 500, reply: 250, whole: 700 }
				},
				session,
				undefined
			);
		const look = async (outcome: Awaited<ReturnType<typeof ask>>, draw: Draw): Promise<void> => {
			const reply = outcome.exchanges.at(-1)?.reply;
			if (!reply) return;
			const view = viewReply(reply, ports.xml);
			try {
				compileJsonPath(draw.of(PATHS)).select(view.json());
				await view.xpath('count(//*)');
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
			} finally {
				view.close();
			}
		};
		let number = 0;
		return {
			async once(draw) {
				const text = mutate(draw.of(REPLIES), draw, REPLIES);
				next = { bytes: Buffer.from(text, 'latin1'), cut: draw.below(2) === 0 };
				const before = performance.now();
				const outcome = await ask('/fuzzed');
				if (outcome.error && !(outcome.error instanceof HeronError)) throw outcome.error as Error;
				await look(outcome, draw);
				if (performance.now() - before > LONGEST_MS) return `it took ${Math.round(performance.now() - before)} ms`;
				const own = String(++number);
				const follow = await ask(`/own/${own}`);
				const body = Buffer.from(follow.exchanges.at(-1)?.reply?.body ?? []).toString('latin1');
				return body === own || follow.error ? undefined : `another call’s answer: ${body.slice(0, 80)}`;
			},
			async close() {
				engine.close();
				for (const socket of sockets) socket.destroy();
				await new Promise((resolve) => server.close(resolve));
			}
		};
	}
};
