import multipart from '@fastify/multipart';
import Fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';
import { createHash, randomBytes } from 'node:crypto';
import { openapi } from './openapi.ts';
import type { Ledger } from '../tolls/ledger.ts';
import { freshState, type Booking, type Edition, type Permit, type State } from './state.ts';

const TOKEN_LIFE_MS = 3_600_000;
const NOTICE_DELAY_MS = 900;

/** Problem details (RFC 9457). */
const problem = (reply: FastifyReply, status: number, title: string, detail: string, extra: object = {}) =>
	reply
		.code(status)
		.type('application/problem+json')
		.send({ type: 'about:blank', title, status, detail, ...extra });

const withLinks = (path: string, id: string) => ({ self: `${path}/${id}` });
const viewBooking = (booking: Booking) => ({ ...booking, links: withLinks('/bookings', booking.reference) });
const viewPermit = (permit: Permit) => ({ ...permit, links: withLinks('/permits', permit.id) });

interface Fault {
	field: string;
	message: string;
}

function faultsOf(state: State, body: Partial<Booking>): Fault[] {
	const faults: Fault[] = [];
	if (!state.moorings.some((mooring) => mooring.id === body.mooring))
		faults.push({ field: 'mooring', message: 'there is no such mooring' });
	if (typeof body.boat !== 'string' || !body.boat.trim())
		faults.push({ field: 'boat', message: 'the name of the boat is missing' });
	if (!/^\d{4}-\d\d-\d\d$/.test(String(body.from)))
		faults.push({ field: 'from', message: 'a date is wanted, such as 2027-05-14' });
	if (!Number.isInteger(body.nights) || body.nights! < 1 || body.nights! > 28)
		faults.push({ field: 'nights', message: 'a whole number from 1 to 28 is wanted' });
	return faults;
}

/** The moorings service of Reedmere Waterways. */
export async function createMoorings(edition: Edition, ledger: Ledger): Promise<FastifyInstance> {
	let state = freshState(edition);
	const app = Fastify({ forceCloseConnections: true });
	await app.register(multipart, { limits: { fileSize: 5_000_000 } });
	app.setErrorHandler((error: Error & { statusCode?: number }, _, reply) =>
		problem(reply, error.statusCode ?? 500, error.statusCode === 400 ? 'Bad Request' : 'Error', error.message)
	);
	app.setNotFoundHandler((request, reply) => problem(reply, 404, 'Not Found', `there is nothing at ${request.url}`));

	const signedIn = (request: FastifyRequest, reply: FastifyReply): boolean => {
		const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
		const session = token ? state.tokens.get(token) : undefined;
		if (session && session.expiresAt > Date.now()) return true;
		void reply.header('www-authenticate', 'Bearer realm="reedmere"');
		void problem(
			reply,
			401,
			'Unauthorized',
			token ? 'the token is not known or has expired' : 'a token is wanted: POST /sessions gives one'
		);
		return false;
	};

	await app.register(
		async (v1) => {
			v1.get('/openapi.json', (request) => openapi(`http://${request.headers.host}/v1`));
			v1.get('/health', () => ({ status: 'ok', edition, time: new Date().toISOString() }));
			v1.post('/reset', (_, reply) => {
				state = freshState(edition);
				return reply.code(204).send();
			});

			v1.post<{ Body: { user?: string; password?: string } | null }>('/sessions', (request, reply) => {
				const { user = '', password = '' } = request.body ?? {};
				if (state.clerks.get(user) !== password || !password)
					return problem(reply, 401, 'Unauthorized', 'user or password is wrong');
				const token = randomBytes(18).toString('base64url');
				const expiresAt = Date.now() + TOKEN_LIFE_MS;
				state.tokens.set(token, { user, expiresAt });
				void reply.header('set-cookie', `clerk=${user}; Path=/; HttpOnly`);
				return reply.code(201).send({ token, clerk: user, expiresAt: new Date(expiresAt).toISOString() });
			});

			v1.get<{ Querystring: Record<string, string> }>('/moorings', (request, reply) => {
				const { state: wanted, basin } = request.query;
				const size = Number(request.query.size ?? 10);
				const page = Number(request.query.page ?? 1);
				if (!Number.isInteger(size) || size < 1 || size > 100 || !Number.isInteger(page) || page < 1) {
					return problem(reply, 400, 'Bad Request', 'size is 1 to 100, page counts from 1');
				}
				const all = state.moorings.filter((m) => (!wanted || m.state === wanted) && (!basin || m.basin === basin));
				const items = all
					.slice((page - 1) * size, page * size)
					.map((m) => ({ ...m, links: withLinks('/moorings', m.id) }));
				const next = new URLSearchParams({ ...request.query, page: String(page + 1) });
				return {
					items,
					total: all.length,
					page,
					size,
					links: page * size < all.length ? { next: `/moorings?${next}` } : {}
				};
			});
			v1.get<{ Params: { id: string } }>('/moorings/:id', (request, reply) => {
				const mooring = state.moorings.find((m) => m.id === request.params.id);
				if (!mooring) return problem(reply, 404, 'Not Found', `there is no mooring ${request.params.id}`);
				return { ...mooring, links: withLinks('/moorings', mooring.id) };
			});

			v1.post<{ Body: Partial<Booking> | null }>('/bookings', (request, reply) => {
				if (!signedIn(request, reply)) return reply;
				const body = request.body ?? {};
				const faults = faultsOf(state, body);
				if (faults.length > 0)
					return problem(reply, 422, 'Unprocessable Content', 'the booking cannot be made', { faults });
				const taken = [...state.bookings.values()].find(
					(b) => b.status === 'confirmed' && b.mooring === body.mooring && b.from === body.from
				);
				if (taken)
					return problem(reply, 409, 'Conflict', `mooring ${body.mooring} is taken from ${body.from}`, {
						reference: taken.reference
					});
				const now = new Date().toISOString();
				const reference = `RW-${state.nextBooking++}`;
				const booking: Booking = {
					reference,
					mooring: body.mooring!,
					boat: body.boat!,
					from: body.from!,
					nights: body.nights!,
					status: 'confirmed',
					createdAt: now,
					updatedAt: now
				};
				state.bookings.set(reference, booking);
				return reply.code(201).header('location', `/v1/bookings/${reference}`).send(viewBooking(booking));
			});
			const found = (request: FastifyRequest, reply: FastifyReply): Booking | undefined => {
				if (!signedIn(request, reply)) return undefined;
				const { reference } = request.params as { reference: string };
				const booking = state.bookings.get(reference);
				if (!booking) void problem(reply, 404, 'Not Found', `there is no booking ${reference}`);
				return booking;
			};
			const change = (booking: Booking, body: Partial<Booking>, reply: FastifyReply) => {
				if (booking.status === 'cancelled')
					return problem(reply, 409, 'Conflict', 'a cancelled booking cannot be changed');
				const changed = { ...booking, ...body, reference: booking.reference, status: booking.status };
				const faults = faultsOf(state, changed);
				if (faults.length > 0)
					return problem(reply, 422, 'Unprocessable Content', 'the booking cannot be changed so', { faults });
				const { mooring, boat, from, nights } = changed;
				Object.assign(booking, { mooring, boat, from, nights, updatedAt: new Date().toISOString() });
				return reply.send(viewBooking(booking));
			};
			v1.get('/bookings/:reference', (request, reply) => {
				const booking = found(request, reply);
				return booking ? viewBooking(booking) : reply;
			});
			v1.put<{ Body: Partial<Booking> | null }>('/bookings/:reference', (request, reply) => {
				const booking = found(request, reply);
				return booking ? change(booking, request.body ?? {}, reply) : reply;
			});
			v1.patch<{ Body: Partial<Booking> | null }>('/bookings/:reference', (request, reply) => {
				const booking = found(request, reply);
				return booking ? change(booking, request.body ?? {}, reply) : reply;
			});
			v1.delete('/bookings/:reference', (request, reply) => {
				const booking = found(request, reply);
				if (!booking) return reply;
				if (booking.status === 'cancelled') return problem(reply, 409, 'Conflict', 'the booking is cancelled already');
				Object.assign(booking, { status: 'cancelled', updatedAt: new Date().toISOString() });
				return reply.code(204).send();
			});
			v1.get<{ Params: { reference: string } }>('/noticeboard/:reference', (request, reply) => {
				const booking = state.bookings.get(request.params.reference);
				const shown = booking && Date.now() - Date.parse(booking.createdAt) > NOTICE_DELAY_MS;
				if (!shown) return problem(reply, 404, 'Not Found', 'there is no such notice, or not yet');
				return {
					reference: booking.reference,
					text: `${booking.boat} lies at ${booking.mooring} from ${booking.from}`
				};
			});

			// the ledger's passages come over now and then
			v1.get<{ Params: { number: string } }>('/passages/:number', (request, reply) => {
				const passage = ledger.passages.get(request.params.number);
				if (!passage || Date.now() - passage.recordedAt < NOTICE_DELAY_MS)
					return problem(reply, 404, 'Not Found', 'there is no such passage, or not yet');
				const { number, lock, craft, direction, passedAt, pence } = passage;
				return {
					number,
					lock,
					boat: craft.name,
					lengthMetres: Number(craft.length),
					direction,
					passedAt: new Date(passedAt).toISOString(),
					pence
				};
			});

			v1.get('/gauges', () => ({
				items: ['Mill Weir', 'Long Pound', 'Staircase'].map((name, g) => ({
					id: `G${g + 1}`,
					name,
					readings: Array.from({ length: 4 }, (_, i) => ({
						at: new Date(Date.UTC(2026, 4, 14, 6, i * 15)).toISOString(),
						levelMetres: Math.round((1.4 + g * 0.3 + i * 0.02) * 100) / 100,
						flags: i === 3 ? ['latest'] : []
					}))
				}))
			}));

			const readPermit = async (request: FastifyRequest, reply: FastifyReply) => {
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
			};
			v1.post('/permits', async (request, reply) => {
				if (!signedIn(request, reply)) return reply;
				const given = await readPermit(request, reply);
				if (!given) return reply;
				const now = new Date().toISOString();
				const permit: Permit = { id: `P-${state.nextPermit++}`, ...given, createdAt: now, updatedAt: now };
				state.permits.set(permit.id, permit);
				return reply.code(201).header('location', `/v1/permits/${permit.id}`).send(viewPermit(permit));
			});
			v1.put<{ Params: { id: string } }>('/permits/:id', async (request, reply) => {
				if (!signedIn(request, reply)) return reply;
				const permit = state.permits.get(request.params.id);
				if (!permit) return problem(reply, 404, 'Not Found', `there is no permit ${request.params.id}`);
				const given = await readPermit(request, reply);
				if (!given) return reply;
				// a moment later by all means, so that a replace can be told from a create
				const updatedAt = new Date(Math.max(Date.now(), Date.parse(permit.updatedAt) + 1)).toISOString();
				Object.assign(permit, given, { updatedAt });
				return viewPermit(permit);
			});
			v1.get<{ Params: { id: string } }>('/permits/:id', (request, reply) => {
				const permit = state.permits.get(request.params.id);
				return permit
					? viewPermit(permit)
					: problem(reply, 404, 'Not Found', `there is no permit ${request.params.id}`);
			});
			v1.delete<{ Params: { id: string } }>('/permits/:id', (request, reply) => {
				if (!signedIn(request, reply)) return reply;
				if (!state.permits.delete(request.params.id))
					return problem(reply, 404, 'Not Found', `there is no permit ${request.params.id}`);
				return reply.code(204).send();
			});

			v1.get<{ Querystring: { ms?: string } }>('/slow', async (request) => {
				const ms = Math.min(30_000, Number(request.query.ms ?? 1500) || 0);
				await new Promise((resolve) => setTimeout(resolve, ms));
				return { waitedMs: ms };
			});
			v1.get('/flaky', (_, reply) => {
				if (state.flaky++ % 3 !== 2) return problem(reply, 503, 'Service Unavailable', 'try again');
				return reply.send({ status: 'ok' });
			});
			v1.get('/limited', (_, reply) => {
				if (Date.now() - state.limited.since > 1000) state.limited = { since: Date.now(), count: 0 };
				if (++state.limited.count > 3) {
					void reply.header('retry-after', '1');
					return problem(reply, 429, 'Too Many Requests', 'three calls a second are allowed');
				}
				return reply.send({ left: 3 - state.limited.count });
			});
		},
		{ prefix: '/v1' }
	);
	return app;
}
