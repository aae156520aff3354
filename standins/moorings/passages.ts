import type { FastifyInstance } from 'fastify';
import type { Ledger } from '../tolls/ledger.ts';
import { problem } from './answers.ts';

const ARRIVAL_DELAY_MS = 900;

/** The passages of the tolls' ledger, which come over now and then. */
export function addPassages(app: FastifyInstance, ledger: Ledger): void {
	app.get<{ Params: { number: string } }>('/passages/:number', (request, reply) => {
		const passage = ledger.passages.get(request.params.number);
		if (!passage || Date.now() - passage.recordedAt < ARRIVAL_DELAY_MS)
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
}
