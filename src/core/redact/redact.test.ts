import { describe, expect, test } from 'vitest';
import { createMultibyteEncoder } from '@exodus/bytes/multi-byte.js';
import { createSinglebyteEncoder } from '@exodus/bytes/single-byte.js';
import { encodeHTML } from 'entities';
import { shortened } from '../model/shortened.ts';
import { weakness } from '../weakness.ts';
import { createRedactor } from './index.ts';

const secret = 'p@ss "wörd"/+1&';
const redactor = createRedactor({ password: secret, short: 'xyz9', none: '' });

/** Base64 in lines of 76 letters with the secret across the break of the first two. */
const folded = (text: string, ending: string) =>
	Buffer.from('.'.repeat(50) + text + '.'.repeat(80))
		.toString('base64')
		.replace(/.{76}(?=.)/g, `$&${ending}`);

describe('no secret leaves', () => {
	const forms: [string, string][] = [
		['plain', secret],
		['inside a sentence', `the password is ${secret}!`],
		['JSON-escaped', JSON.stringify({ secret })],
		['JSON with escaped slashes', JSON.stringify({ secret }).replace(/\//g, '\\/')],
		['percent-encoded', encodeURIComponent(secret)],
		['percent-encoded in small letters', encodeURIComponent(secret).replace(/%[0-9A-F]{2}/g, (h) => h.toLowerCase())],
		['as a form field', new URLSearchParams({ secret }).toString()],
		['base64', Buffer.from(secret).toString('base64')],
		['base64 of user and password', Buffer.from(`avery:${secret}`).toString('base64')],
		['base64 with one letter before', Buffer.from(`a${secret}bc`).toString('base64')],
		['base64 with two letters before', Buffer.from(`ab${secret}`).toString('base64')],
		['base64url', Buffer.from(secret).toString('base64url')],
		['base64 in lines', folded(secret, '\r\n')],
		['base64 in lines, as JSON writes it', JSON.stringify({ key: folded(secret, '\n') })],
		['base64 in indented lines', folded(secret, '\n    ')],
		['as the octets of a header field', Buffer.from(secret, 'utf8').toString('latin1')],
		['XML-escaped', secret.replace(/&/g, '&amp;').replace(/"/g, '&quot;')]
	];
	test.each(forms)('%s', (_, text) => {
		const out = redactor.text(text);
		expect(out).toContain('‹password›');
		for (const [, form] of forms.slice(0, 1)) expect(out).not.toContain(form);
		// nothing that could be turned back: neither form stands in what is left
		expect(out).not.toContain(Buffer.from(secret).toString('base64').slice(4, 12));
	});
	test('deep in data, in keys and in bytes', () => {
		const out = redactor.deep({ list: [secret], [secret]: { bytes: new TextEncoder().encode(secret) } });
		expect(JSON.stringify(out)).not.toContain('wörd');
		expect(
			new TextDecoder().decode((out as unknown as Record<string, { bytes: Uint8Array }>)['‹password›']!.bytes)
		).toBe('‹password›');
	});
	test('a form of ours keeps its names and words, however short a secret is', () => {
		const short = createRedactor({ pin: 'e', word: 'passed' });
		const given = { outcome: 'passed', received: 'the end', list: [{ code: 'send.failed', message: 'passed on' }] };
		expect(short.record(given, ['outcome', 'code'])).toEqual({
			outcome: 'passed',
			received: 'th‹pin› ‹pin›nd',
			list: [{ code: 'send.failed', message: '‹word› on' }]
		});
	});
	test('an empty secret hides nothing, and no secret changes nothing', () => {
		expect(redactor.text('none')).toBe('none');
		const value = { a: [1] };
		expect(createRedactor({}).deep(value)).toBe(value);
	});
});

/** A generator of numbers that gives the same ones each time (mulberry32). */
function draw(seed: number): (below: number) => number {
	let state = seed;
	return (below) => {
		state = (state + 0x6d2b79f5) | 0;
		let t = Math.imul(state ^ (state >>> 15), 1 | state);
		t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
		return ((t ^ (t >>> 14)) >>> 0) % below;
	};
}
const json = (text: string) => JSON.stringify(text).slice(1, -1);
const has = (bytes: Uint8Array, part: Uint8Array) => Buffer.from(bytes).includes(Buffer.from(part));
const ascii = (text: string) =>
	// eslint-disable-next-line no-control-regex
	json(text).replace(/[^\x00-\x7f]/g, (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`);
const xml = (text: string) =>
	text.replace(/[<>&"']/g, (c) => `&${{ '<': 'lt', '>': 'gt', '&': 'amp', '"': 'quot', "'": 'apos' }[c]};`);
const numbered = (text: string) => text.replace(/[^A-Za-z0-9 ]/gu, (c) => `&#x${c.codePointAt(0)!.toString(16)};`);
const decimal = (text: string) => text.replace(/[^A-Za-z0-9 ]/gu, (c) => `&#${c.codePointAt(0)};`);
const every = (text: string) => [...Buffer.from(text)].map((b) => `%${b.toString(16).padStart(2, '0')}`).join('');
const capitals = (text: string) => every(text).toUpperCase();
const codings: [string, (text: string) => string][] = [
	['as it is', (text) => text],
	['JSON', json],
	['JSON with every letter that is not ASCII escaped', ascii],
	['JSON with escaped slashes', (text) => json(text).replaceAll('/', '\\/')],
	['JSON within JSON', (text) => json(json(text))],
	['JSON within JSON, escaped', (text) => ascii(ascii(text))],
	['XML', xml],
	['entities by number', numbered],
	['entities by decimal number', decimal],
	['HTML', encodeHTML],
	['XML within XML', (text) => xml(xml(text))],
	['XML within JSON', (text) => json(xml(text))],
	['JSON within XML', (text) => xml(json(text))],
	['percent', encodeURIComponent],
	['percent of every octet', every],
	['percent of every octet in capitals', capitals],
	['percent twice', (text) => encodeURIComponent(encodeURIComponent(text))],
	['a form', (text) => new URLSearchParams([['', text]]).toString().slice(1)],
	['a form within JSON', (text) => json(new URLSearchParams([['', text]]).toString().slice(1))],
	['base64', (text) => Buffer.from(text).toString('base64')],
	['base64 behind one octet', (text) => Buffer.from(`:${text}~~`).toString('base64')],
	['base64 behind two octets', (text) => Buffer.from(`a:${text}`).toString('base64')],
	['base64url', (text) => Buffer.from(`{"p":"${json(text)}"}`).toString('base64url')],
	['base64 in a form', (text) => encodeURIComponent(Buffer.from(text).toString('base64'))],
	['base64 of what a form writes', (text) => Buffer.from(`id:${encodeURIComponent(text)}`).toString('base64')],
	['hexadecimal', (text) => Buffer.from(text).toString('hex')],
	['hexadecimal in capitals', (text) => Buffer.from(text).toString('hex').toUpperCase()],
	['octets of UTF-8, one character each', (text) => Buffer.from(text).toString('latin1')]
];
const LETTERS = [
	'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789',
	'\'"\\/&<>+%~#?= \t\n;:{}[]$',
	'äöüßéñ€“”',
	'日本語値',
	'жлд',
	'😀'
];

describe('random secrets in every coding and place', () => {
	const next = draw(20261126);
	const secrets = Array.from({ length: 250 }, (_, n) => {
		const kinds = LETTERS.slice(0, 1 + (n % LETTERS.length));
		const length = 6 + next(20);
		// it begins and ends with a letter, so that no coding trims it
		const middle = Array.from({ length }, () => {
			const letters = [...kinds[next(kinds.length)]!];
			return letters[next(letters.length)]!;
		}).join('');
		return `k${middle}${n}`;
	});
	const around: ((inner: string) => string)[] = [
		(inner) => inner,
		(inner) => `before ${inner} behind`,
		(inner) => `{"a":"${inner}","b":[1,"${inner}"]}`,
		(inner) => `<a b="x">${inner}</a>`,
		(inner) => `https://host.example/p?x=${inner}&y=1`
	];
	test.each(codings)('%s', (_, write) => {
		for (const secret of secrets) {
			const redactor = createRedactor({ key: secret });
			for (const place of around) {
				const given = place(write(secret));
				const out = redactor.text(given);
				expect(out, given).toContain('‹key›');
				expect(out.includes(write(secret)), given).toBe(false);
				expect(Buffer.from(redactor.bytes(Buffer.from(given))).toString(), given).toBe(out);
			}
		}
	});

	test.each(codings)('%s, and cut', (_, write) => {
		for (const secret of secrets.filter((_, n) => n % 5 === 0)) {
			const redactor = createRedactor({ key: secret });
			const written = write(secret);
			const least = Math.min(write([...secret].slice(0, 5).join('')).length, written.length - 1);
			for (const place of around)
				for (const kept of [least, written.length >> 1, written.length - 2, written.length - 1]) {
					if (kept < least) continue;
					const whole = place(written);
					const given = shortened(whole, whole.indexOf(written) + kept);
					const out = redactor.text(given);
					expect(out, given).toContain('‹key›');
					expect(out.includes(written.slice(0, kept)), given).toBe(false);
					const body = Buffer.from(given.slice(0, -1));
					const reply = redactor.record({ cut: 'cut at 5 kB', body });
					expect(Buffer.from(reply.body).toString(), given).toBe(out.slice(0, -1));
				}
		}
	});
	test('what only looks like the beginning of a secret stays', () => {
		const redactor = createRedactor({ key: 'silt-and-gravel-7' });
		for (const text of ['the silt…and more', 'si…', 'silt and…', 'silt-and', 'a silt-and… and silt-and (409)'])
			expect(redactor.text(text)).toBe(text.replace('silt…', '‹key›…').replace('silt-and…', '‹key›…'));
		const body = Buffer.from('silt-and');
		expect(redactor.record({ body }).body).toBe(body);
	});

	const charsets: [string, (text: string) => Uint8Array, string?][] = [
		...['windows-1252', 'iso-8859-15', 'windows-1251', 'koi8-r'].map((name): [string, (text: string) => Uint8Array] => [
			name,
			createSinglebyteEncoder(name)
		]),
		...['shift_jis', 'gbk', 'big5', 'euc-kr', 'euc-jp'].map((name): [string, (text: string) => Uint8Array] => [
			name,
			createMultibyteEncoder(name)
		]),
		['utf-16le', (text) => Buffer.from(text, 'utf16le')],
		['utf-16be', (text) => Buffer.from(text, 'utf16le').swap16()],
		['utf-16le with a mark', (text) => Buffer.from(`\ufeff${text}`, 'utf16le')]
	];
	test.each(charsets)('a reply in %s', (name, encode) => {
		let tried = 0;
		for (const secret of secrets) {
			let own: Uint8Array;
			let body: Uint8Array;
			try {
				own = encode(secret).subarray(name.includes('mark') ? 2 : 0);
				body = encode(`{"a": "${secret}"}`);
			} catch {
				continue;
			}
			tried++;
			const redactor = createRedactor({ key: secret });
			const out = redactor.bytes(body);
			expect(has(out, own), secret).toBe(false);
			expect(has(out, Buffer.from('key')) || has(out, encode('key').slice(-2)), secret).toBe(true);
			// what is no text at all
			const noise = Buffer.concat([Buffer.from([0xff, 0xd8, 0xfe, 0x80]), own, Buffer.from([0xc3])]);
			expect(has(redactor.bytes(noise), own), secret).toBe(false);
		}
		expect(tried).toBeGreaterThan(20);
	});
});

describe('what is data', () => {
	test('numbers are looked at where they are data, and stay where they are ours', () => {
		const redactor = createRedactor({ pin: '482913' });
		expect(redactor.deep({ kept: { pin: 482913, big: 9007199254482913n, other: 5 } })).toEqual({
			kept: { pin: '‹pin›', big: '9007199254‹pin›', other: 5 }
		});
		expect(redactor.record({ ms: 482913, text: 'pin 482913' })).toEqual({ ms: 482913, text: 'pin ‹pin›' });
	});
	test('a value that was made is hidden, short ones only where nothing is sent', () => {
		const redactor = createRedactor({ pin: '482913' });
		redactor.made('pin.made', 'ab');
		redactor.made('pin.made', '0123456789abcdef');
		expect(redactor.text('ab 0123456789abcdef')).toBe('ab ‹pin.made›');
		const strict = createRedactor({ pin: '482913' }, { strict: true });
		strict.made('pin.made', 'ab');
		expect(strict.text('ab')).toBe('‹pin.made›');
	});
	test('of what was made the newest are hidden, so that a long run does not slow down', () => {
		const redactor = createRedactor({});
		for (let n = 0; n < 1000; n++) redactor.made('made', `signature-${n}-end`);
		expect(redactor.text('signature-999-end signature-960-end')).toBe('‹made› ‹made›');
	});
	test.each([
		['', undefined],
		['x9', /2 characters/],
		['secret', /ordinary word/],
		['harbour', /ordinary word/],
		['Tr4verse-the-lock', undefined]
	])('%s is told when it is set: %s', (value, wanted) => {
		if (wanted) expect(weakness(value)).toMatch(wanted);
		else expect(weakness(value)).toBeUndefined();
	});
});
