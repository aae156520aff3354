import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { problem, signedIn, withLinks, type Service } from './answers.ts';
import type { Booking, State } from './state.ts';

const NOTICE_DELAY_MS = 900;

const viewBooking = (booking: Booking) => ({ ...booking, links: withLinks('/bookings', booking.reference) });

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

function found(service: Service, request: FastifyRequest, reply: FastifyReply): Booking | undefined {
	if (!signedIn(service, request, reply)) return undefined;
	const { reference } = request.params as { reference: string };
	const booking = service.state.bookings.get(reference);
	if (!booking) void problem(reply, 404, 'Not Found', `there is no booking ${reference}`);
	return booking;
}

function change(service: Service, booking: Booking, body: Partial<Booking>, reply: FastifyReply): FastifyReply {
	if (booking.status === 'cancelled') return problem(reply, 409, 'Conflict', 'a cancelled booking cannot be changed');
	const changed = { ...booking, ...body, reference: booking.reference, status: booking.status };
	const faults = faultsOf(service.state, changed);
	if (faults.length > 0)
		return problem(reply, 422, 'Unprocessable Content', 'the booking cannot be changed so', { faults });
	const { mooring, boat, from, nights } = changed;
	Object.assign(booking, { mooring, boat, from, nights, updatedAt: new Date().toISOString() });
	return reply.send(viewBooking(booking));
}

/** Bookings, and the board on which they stand a moment later. */
export function addBookings(app: FastifyInstance, service: Service): void {
	app.post<{ Body: Partial<Booking> | null }>('/bookings', (request, reply) => {
		if (!signedIn(service, request, reply)) return reply;
		const body = request.body ?? {};
		const faults = faultsOf(service.state, body);
		if (faults.length > 0)
			return problem(reply, 422, 'Unprocessable Content', 'the booking cannot be made', { faults });
		const taken = [...service.state.bookings.values()].find(
			(b) => b.status === 'confirmed' && b.mooring === body.mooring && b.from === body.from
		);
		if (taken)
			return problem(reply, 409, 'Conflict', `mooring ${body.mooring} is taken from ${body.from}`, {
				reference: taken.reference
			});
		const now = new Date().toISOString();
		const reference = `RW-${service.state.nextBooking++}`;
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
		service.state.bookings.set(reference, booking);
		return reply.code(201).header('location', `/v1/bookings/${reference}`).send(viewBooking(booking));
	});
	app.get('/bookings/:reference', (request, reply) => {
		const booking = found(service, request, reply);
		return booking ? viewBooking(booking) : reply;
	});
	app.put<{ Body: Partial<Booking> | null }>('/bookings/:reference', (request, reply) => {
		const booking = found(service, request, reply);
		return booking ? change(service, booking, request.body ?? {}, reply) : reply;
	});
	app.patch<{ Body: Partial<Booking> | null }>('/bookings/:reference', (request, reply) => {
		const booking = found(service, request, reply);
		return booking ? change(service, booking, request.body ?? {}, reply) : reply;
	});
	app.delete('/bookings/:reference', (request, reply) => {
		const booking = found(service, request, reply);
		if (!booking) return reply;
		if (booking.status === 'cancelled') return problem(reply, 409, 'Conflict', 'the booking is cancelled already');
		Object.assign(booking, { status: 'cancelled', updatedAt: new Date().toISOString() });
		return reply.code(204).send();
	});
	app.get<{ Params: { reference: string } }>('/noticeboard/:reference', (request, reply) => {
		const booking = service.state.bookings.get(request.params.reference);
		const shown = booking && Date.now() - Date.parse(booking.createdAt) > NOTICE_DELAY_MS;
		if (!shown) return problem(reply, 404, 'Not Found', 'there is no such notice, or not yet');
		return {
			reference: booking.reference,
			text: `${booking.boat} lies at ${booking.mooring} from ${booking.from}`
		};
	});
}
