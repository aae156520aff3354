import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { CheckKind, ContractFault } from './kind.ts';

const MOST_SHOWN = 5;

/** A place without the envelope around it, which is the same everywhere. */
const shortPath = (path: string): string => path.replace(/^\/Envelope\/Body\//, '').replace(/^\/\//, '');

/** A fault of a contract in one line. */
export const wordsOfFault = ({ line, path, message }: ContractFault): string =>
	line === undefined
		? `${path ? `${path} ` : ''}${message}`
		: `line ${line}${path ? `, ${shortPath(path)}` : ''}: ${message}`;

const wordsOf = (faults: ContractFault[]): string =>
	faults.slice(0, MOST_SHOWN).map(wordsOfFault).join('; ') +
	(faults.length > MOST_SHOWN ? `; and ${faults.length - MOST_SHOWN} more` : '');

/** Whether what is sent is meant, by what is written. */
const meansRequest = (expected: Json): boolean => isObject(expected);

export const contract: CheckKind<'contract'> = {
	key: 'contract',
	label: 'contract',
	doc: 'The reply against the definition of the call. By OpenAPI: status, headers, media type, and the body by its schema. By WSDL: the version and form of the envelope, and its content; of a fault, its detail. With `request: true` the request in its place, with `request: false` it must not fit: a call that is wrong on purpose.',
	example: { contract: true },
	form: 'value',
	whole: (expected) => !meansRequest(expected),
	words: (expected) =>
		meansRequest(expected)
			? { subject: 'contract of the request', relation: (expected as JsonObject).request ? 'holds' : 'does not hold' }
			: undefined,
	problem: (value) =>
		value === true || (isObject(value) && typeof value.request === 'boolean' && Object.keys(value).length === 1)
			? undefined
			: 'true is wanted, or { request: true } or { request: false } for what is sent: contract: true',
	look: ({ view }) => ({ found: view.reply.body.length > 0, value: undefined }),
	async judge(_, value, { contract: faultsOf }) {
		if (!faultsOf) throw new Error('this step has no definition to be held against');
		if (meansRequest(value)) {
			const { request: wanted } = value as JsonObject;
			const faults = (await faultsOf('request')).filter(({ note }) => !note);
			return {
				holds: (faults.length === 0) === wanted,
				expected: wanted ? 'as the definition has it' : 'not as the definition has it',
				received: faults.length > 0 ? wordsOf(faults) : 'it fits'
			};
		}
		const found = await faultsOf();
		const notes = found.filter(({ note }) => note).map(({ message }) => `; ${message}`);
		const faults = found.filter(({ note }) => !note);
		const [first] = faults;
		const expected = 'as the definition has it';
		if (!first) return { holds: true, expected, received: `it fits${notes.join('')}` };
		return { holds: false, expected, received: wordsOf(faults), ...(first.path ? { place: first.path } : {}) };
	}
};
