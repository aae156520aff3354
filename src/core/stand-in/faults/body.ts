import { parseDuration } from '../../model/units.ts';
import type { FaultKind } from './kind.ts';
import { justTrue } from './kind.ts';

export const drip: FaultKind = {
	key: 'drip',
	label: 'in drops',
	doc: 'The body comes in pieces, spread over a time.',
	example: '5 s',
	schema: { type: 'string' },
	problem: (value) => (parseDuration(value) === undefined ? 'a duration is wanted, such as 5 s' : undefined),
	words: (value) => `in drops over ${String(value)}`,
	apply: (given, value) => void (given.drip = parseDuration(value) ?? 0)
};

export const type: FaultKind = {
	key: 'type',
	label: 'another type',
	doc: 'Content-Type says something else than what comes.',
	example: 'text/html',
	schema: { type: 'string' },
	problem: (value) =>
		typeof value === 'string' && /^[\w.+-]+\/[\w.+-]+/.test(value)
			? undefined
			: 'a media type is wanted, such as text/html',
	words: (value) => `Content-Type ${String(value)}`,
	apply(given, value) {
		given.headers = [
			...given.headers.filter(([name]) => name.toLowerCase() !== 'content-type'),
			['Content-Type', String(value)]
		];
	}
};

export const malformed: FaultKind = {
	key: 'malformed',
	label: 'malformed',
	doc: 'The body is cut before its end and told to be whole: JSON and XML that cannot be read.',
	example: true,
	schema: { const: true },
	problem: justTrue,
	words: () => 'a malformed body',
	apply: (given) => void (given.body = given.body.subarray(0, Math.floor(given.body.length * 0.8)))
};

export const length: FaultKind = {
	key: 'length',
	label: 'wrong length',
	doc: 'Content-Length says so many octets more than come, and the connection is closed.',
	example: 10,
	schema: { type: 'integer', minimum: 1 },
	problem: (value) =>
		Number.isInteger(value) && (value as number) > 0 ? undefined : 'a whole number from 1 is wanted',
	words: (value) => `Content-Length ${String(value)} too high`,
	apply: (given, value) => void (given.surplus = Number(value))
};
