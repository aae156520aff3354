import type { FaultKind } from './kind.ts';
import { justTrue } from './kind.ts';

const TRUE = { const: true } as const;

export const reset: FaultKind = {
	key: 'reset',
	label: 'reset',
	doc: 'The connection is reset in place of an answer.',
	example: true,
	schema: TRUE,
	problem: justTrue,
	words: () => 'connection reset',
	apply: (given) => void (given.end = 'reset')
};

export const half: FaultKind = {
	key: 'half',
	label: 'half a body',
	doc: 'Half of the body is sent, and the connection closed.',
	example: true,
	schema: TRUE,
	problem: justTrue,
	words: () => 'half a body',
	apply: (given) => void (given.end = 'half')
};

export const silent: FaultKind = {
	key: 'silent',
	label: 'no answer',
	doc: 'Nothing is answered, until whoever asks gives up.',
	example: true,
	schema: TRUE,
	problem: justTrue,
	words: () => 'no answer',
	apply: (given) => void (given.end = 'silent')
};

export const refuse: FaultKind = {
	key: 'refuse',
	label: 'refused',
	doc: 'The connection is closed as soon as it is there: a TLS handshake never ends.',
	example: true,
	schema: TRUE,
	connection: true,
	problem: justTrue,
	words: () => 'connection refused',
	apply: (given) => void (given.end = 'reset')
};
