import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { createHash } from 'node:crypto';
import { problem, signedIn, withLinks, type Service } from './answers.ts';
import type { Permit } from './state.ts';

const viewPermit = (permit: Permit) => ({ ...permit, links: withLinks('/permits', permit.id) });

/** The two parts of a permit; answers itself where they are not there. */
async function readPermit(request: FastifyRequest, reply: FastifyReply) {
	if (!request.isMultipart())
		return void problem(
			reply,
			415,
			'Unsupported Media Type',
			'multipart/form-data is wanted: a part details and a part scan'
		);
	let details: { boat?: string; kind?: string } | undefined;
	let file: Permit['file'] | undefined;
	for await (const part of request.parts()) {
		const bytes = part.type === 'file' ? await part.toBuffer() : undefined;
		if (part.fieldname === 'scan' && part.type === 'file' && bytes) {
			const sha256 = createHash('sha256').update(bytes).digest('hex');
			file = { name: part.filename, type: part.mimetype, size: bytes.length, sha256 };
		} else if (part.fieldname === 'details') {
			// clients send a JSON part with a file name or without
			const value: unknown = bytes ? bytes.toString('utf8') : (part as { value: unknown }).value;
			try {
				details = (typeof value === 'string' ? JSON.parse(value) : value) as { boat?: string };
			} catch {
				return void problem(reply, 400, 'Bad Request', 'the part details is not JSON');
			}
		}
	}
	if (!details?.boat || !file) {
		const faults = [
			...(details?.boat ? [] : [{ field: 'details', message: 'a JSON part with boat is wanted' }]),
			...(file ? [] : [{ field: 'scan', message: 'a file is wanted' }])
		];
		return void problem(reply, 422, 'Unprocessable Content', 'the permit cannot be taken', { faults });
	}
	return { boat: details.boat, kind: details.kind ?? 'navigation', file };
}

/** Permits: a form with a JSON part and a scan. */
export function addPermits(app: FastifyInstance, service: Service): void {
	app.post('/permits', async (request, reply) => {
		if (!signedIn(service, request, reply)) return reply;
		const given = await readPermit(request, reply);
		if (!given) return reply;
		const now = new Date().toISOString();
		const permit: Permit = { id: `P-${service.state.nextPermit++}`, ...given, createdAt: now, updatedAt: now };
		service.state.permits.set(permit.id, permit);
		return reply.code(201).header('location', `/v1/permits/${permit.id}`).send(viewPermit(permit));
	});
	app.put<{ Params: { id: string } }>('/permits/:id', async (request, reply) => {
		if (!signedIn(service, request, reply)) return reply;
		const permit = service.state.permits.get(request.params.id);
		if (!permit) return problem(reply, 404, 'Not Found', `there is no permit ${request.params.id}`);
		const given = await readPermit(request, reply);
		if (!given) return reply;
		// a moment later by all means, so that a replace can be told from a create
		const updatedAt = new Date(Math.max(Date.now(), Date.parse(permit.updatedAt) + 1)).toISOString();
		Object.assign(permit, given, { updatedAt });
		return viewPermit(permit);
	});
	app.get<{ Params: { id: string } }>('/permits/:id', (request, reply) => {
		const permit = service.state.permits.get(request.params.id);
		return permit ? viewPermit(permit) : problem(reply, 404, 'Not Found', `there is no permit ${request.params.id}`);
	});
	app.delete<{ Params: { id: string } }>('/permits/:id', (request, reply) => {
		if (!signedIn(service, request, reply)) return reply;
		if (!service.state.permits.delete(request.params.id))
			return problem(reply, 404, 'Not Found', `there is no permit ${request.params.id}`);
		return reply.code(204).send();
	});
}
