import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';

/** A service with a page, which wants a token, a cookie, and what it gave out before. */
export interface Boats {
	url: string;
	close(): void;
}

export async function boats(): Promise<Boats> {
	const kept = new Map<string, Record<string, unknown>>();
	const tokens = new Set<string>();
	let last = 40;
	const server: Server = createServer((request, response) => {
		const chunks: Buffer[] = [];
		request.on('data', (chunk: Buffer) => chunks.push(chunk));
		request.on('end', () => {
			const given = (): Record<string, unknown> =>
				JSON.parse(Buffer.concat(chunks).toString() || '{}') as Record<string, unknown>;
			const { pathname } = new URL(request.url ?? '/', 'http://127.0.0.1');
			const answer = (status: number, body?: unknown, headers: Record<string, string> = {}) =>
				response
					.writeHead(status, { 'content-type': 'application/json', ...headers })
					.end(body === undefined ? undefined : JSON.stringify(body));
			const file = (type: string, text: string) => response.writeHead(200, { 'content-type': type }).end(text);
			if (pathname === '/')
				return file('text/html', '<title>Boats</title><link rel=stylesheet href=/a.css><h1>Boats</h1>');
			if (pathname === '/a.css') return file('text/css', 'h1 { color: navy }');
			if (pathname === '/api/v1/sign-in') {
				if (given().password !== 'pond-77') return answer(401, {});
				const accessToken = randomUUID();
				tokens.add(accessToken);
				return answer(200, { accessToken }, { 'set-cookie': `session=${accessToken}; Path=/` });
			}
			const token = (request.headers.authorization ?? '').replace('Bearer ', '');
			if (!tokens.has(token) || !request.headers.cookie?.includes(`session=${token}`)) return answer(401, {});
			if (request.method === 'POST' && pathname === '/api/v1/boats') {
				const boat = { id: ++last, ...given(), ref: randomUUID() };
				kept.set(String(boat.id), boat);
				return answer(201, boat);
			}
			if (pathname === '/api/v1/crews') {
				const { boatId, ref } = given();
				return kept.get(String(boatId))?.ref === ref ? answer(201, {}) : answer(422, {});
			}
			const id = pathname.replace('/api/v1/boats/', '');
			if (!kept.has(id)) return answer(404, {});
			if (request.method === 'DELETE') {
				kept.delete(id);
				return response.writeHead(204).end();
			}
			return answer(200, kept.get(id));
		});
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	const { port } = server.address() as AddressInfo;
	return { url: `http://127.0.0.1:${port}`, close: () => void server.close() };
}

/** What a page does there; it knows nothing but its own address. */
export async function useBoats(origin = ''): Promise<void> {
	const headers: Record<string, string> = { 'content-type': 'application/json' };
	const call = async (method: string, path: string, body?: unknown) => {
		const answer = await fetch(`${origin}/api/v1${path}`, {
			...{ method, headers },
			...(body === undefined ? {} : { body: JSON.stringify(body) })
		});
		const text = await answer.text();
		return (text ? JSON.parse(text) : {}) as { accessToken: string; id: number; ref: string };
	};
	headers.authorization = `Bearer ${(await call('POST', '/sign-in', { user: 'avery', password: 'pond-77' })).accessToken}`;
	const { id, ref } = await call('POST', '/boats', { name: 'Pike', length: 12.5 });
	await call('GET', `/boats/${id}?full=yes`);
	await call('POST', '/crews', { boatId: id, ref });
	await call('DELETE', `/boats/${id}`);
}
