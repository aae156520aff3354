import { bytesToHex, uuidOf } from '../bytes.ts';
import type { FunctionPorts } from '../scope.ts';
import type { ExpressionFunction } from './kind.ts';

const LETTERS = 'abcdefghijkmnopqrstuvwxyz23456789';

const fraction = (ports: FunctionPorts): number => {
	const [a, b, c, d, e, f] = ports.randomBytes(6) as unknown as number[];
	return (a! * 2 ** 40 + b! * 2 ** 32 + c! * 2 ** 24 + d! * 2 ** 16 + e! * 2 ** 8 + f!) / 2 ** 48;
};

export const random: ExpressionFunction[] = [
	{
		name: 'uuid',
		takes: [],
		doc: 'A random UUID, version 4 (RFC 9562 section 5.4).',
		example: {
			expression: '$uuid()',
			matches: /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/
		},
		run(ports) {
			return uuidOf(ports.randomBytes(16));
		}
	},
	{
		name: 'nonce',
		takes: ['bytes?'],
		doc: 'Random bytes for a single use, as hexadecimal; 16 of them unless another number is given.',
		example: { expression: '$nonce()', matches: /^[0-9a-f]{32}$/ },
		run(ports, n = 16) {
			if (ports.nonce !== undefined) return ports.nonce;
			const size = Number(n);
			if (!Number.isInteger(size) || size < 1 || size > 1024)
				throw new Error('$nonce wants a number of bytes from 1 to 1024');
			return bytesToHex(ports.randomBytes(size));
		}
	},
	{
		name: 'randomInt',
		takes: ['from', 'to'],
		doc: 'A random whole number, both ends included.',
		example: { expression: '$randomInt(7, 7)', gives: 7 },
		run(ports, from, to) {
			const [low, high] = [Number(from), Number(to)];
			if (!Number.isSafeInteger(low) || !Number.isSafeInteger(high) || low > high) {
				throw new Error('$randomInt wants two whole numbers, the smaller first');
			}
			return low + Math.floor(fraction(ports) * (high - low + 1));
		}
	},
	{
		name: 'randomText',
		takes: ['length'],
		doc: 'Random small letters and digits, without those that look alike.',
		example: { expression: '$length($randomText(12))', gives: 12 },
		run(ports, length) {
			const n = Number(length);
			if (!Number.isInteger(n) || n < 0 || n > 100_000) throw new Error('$randomText wants a length of 0 to 100000');
			return Array.from({ length: n }, () => LETTERS[Math.floor(fraction(ports) * LETTERS.length)]).join('');
		}
	},
	{
		name: 'unique',
		takes: ['prefix?'],
		doc: 'A text that no other call of this run or of another run gives.',
		example: { expression: '$unique("boat-")', matches: /^boat-[a-z0-9]+$/ },
		run: (ports, prefix = '') =>
			`${String(prefix)}${Math.floor(ports.now()).toString(36)}${ports.seed.toString(36)}${ports.next().toString(36)}`
	}
];
