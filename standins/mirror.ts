import Fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';
import zlib from 'node:zlib';

/** What a request looked like when it came in: raw header pairs, and the body as text and base64. */
function seen(request: FastifyRequest) {
	const body = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
	const url = new URL(request.raw.url ?? '/', 'http://mirror');
	const pairs: [string, string][] = [];
	const raw = request.raw.rawHeaders;
	for (let i = 0; i < raw.length; i += 2) pairs.push([raw[i]!, raw[i + 1]!]);
	return {
		method: request.method,
		target: request.raw.url,
		path: url.pathname,
		query: [...url.searchParams],
		headers: pairs,
		body: body.toString('utf8'),
		bodyBase64: body.toString('base64'),
		bodySize: body.length
	};
}

/** By what the address calls it. */
const CODINGS: Record<string, (body: Buffer) => Buffer> = {
	gzip: (body) => zlib.gzipSync(body),
	br: (body) => zlib.brotliCompressSync(body),
	deflate: (body) => zlib.deflateSync(body),
	raw: (body) => zlib.deflateRawSync(body)
};

type Numbered = FastifyRequest<{ Params: { n: string } }>;

/** A service that answers with what it received; a few paths answer in ways that are hard to get elsewhere. */
export async function createMirror(): Promise<FastifyInstance> {
	const app = Fastify({
		forceCloseConnections: true,
		bodyLimit: 64_000_000,
		routerOptions: { ignoreTrailingSlash: false }
	});
	app.removeAllContentTypeParsers();
	app.addContentTypeParser('*', { parseAs: 'buffer' }, (_, body, done) => done(null, body));

	app.all('/status/:n', (request: Numbered, reply: FastifyReply) =>
		reply.code(Number(request.params.n)).send(seen(request))
	);
	app.get('/redirect/:n', (request: Numbered, reply: FastifyReply) => {
		const left = Number(request.params.n);
		return reply.redirect(left > 0 ? `/redirect/${left - 1}` : '/arrived', 302);
	});
	app.all('/see-other', (_, reply) => reply.redirect('/arrived', 303));
	app.all('/moved', (_, reply) => reply.redirect('/arrived', 307));
	app.get('/loop', (_, reply) => reply.redirect('/loop', 302));
	app.get('/delay/:n', async (request: Numbered) => {
		await new Promise((resolve) => setTimeout(resolve, Math.min(60_000, Number(request.params.n))));
		return seen(request);
	});
	app.get('/bytes/:n', (request: Numbered, reply) =>
		reply.type('application/octet-stream').send(Buffer.alloc(Math.min(500_000_000, Number(request.params.n)), 'heron '))
	);
	app.get('/cookies/set', (request, reply) => {
		const url = new URL(request.raw.url ?? '/', 'http://mirror');
		for (const [name, value] of url.searchParams) void reply.header('set-cookie', `${name}=${value}; Path=/`);
		return reply.send(seen(request));
	});
	app.get('/coded/:n', (request: Numbered, reply) => {
		const { n } = request.params;
		const body = CODINGS[n]!(Buffer.from(JSON.stringify(seen(request))));
		return reply
			.header('content-encoding', n === 'raw' ? 'deflate' : n)
			.type('application/json')
			.send(body);
	});
	app.get('/bomb', (_, reply) =>
		reply
			.header('content-encoding', 'gzip')
			.type('text/plain')
			.send(zlib.gzipSync(Buffer.alloc(80_000_000)))
	);
	app.get('/deep/:n', (request: Numbered, reply) => {
		const n = Math.min(1_000_000, Number(request.params.n));
		return reply.type('application/json').send('['.repeat(n) + ']'.repeat(n));
	});
	app.get('/wrong-json', (_, reply) => reply.type('application/json').send('<p>Not JSON at all</p>'));
	app.get('/wrong-utf8', (_, reply) =>
		reply.type('text/plain; charset=utf-8').send(Buffer.from([0x42, 0xfc, 0x63, 0x68, 0x73, 0x65]))
	);
	app.all('/*', (request) => seen(request));
	return app;
}
