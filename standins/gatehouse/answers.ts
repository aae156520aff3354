import type { FastifyReply, FastifyRequest } from 'fastify';
import http from 'node:http';

/** Who may pass; public, as everything about a stand-in is. */
export const WARDEN = { user: 'warden', password: 'tidal-gate-4' };
export const GATE = {
	key: 'RW-GATE-2027',
	secret: 'weir-and-sluice',
	token: 'ferry-stage-6',
	client: 'lock-ledger',
	clientSecret: 'osier-bed-8',
	clientToken: 'ledger-token',
	tokenSecret: 'withy-bank-3',
	jwtSecret: 'a-lock-keeper-knows-every-paddle-by-its-sound'
};
export const bodyOf = (request: FastifyRequest): Buffer =>
	Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);

/** Problem details (RFC 9457). */
export const problem = (reply: FastifyReply, status: number, detail: string) =>
	reply
		.code(status)
		.type('application/problem+json')
		.send({ type: 'about:blank', title: http.STATUS_CODES[status], status, detail });

/** What a passed gate answers. */
export const passed = (gate: string, more: object = {}) => ({ gate, open: true, ...more });

export const addressOf = (request: FastifyRequest) =>
	new URL(request.raw.url ?? '/', `https://${request.headers.host ?? request.headers[':authority']}`);
