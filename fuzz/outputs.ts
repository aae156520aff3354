import { createRedactor } from '#core/redact/index.ts';
import { tame } from '#core/tame.ts';
import type { Family } from './family.ts';
import type { Draw } from './mutate.ts';

const LETTERS = 'abcdefghijklmnopqrstuvwxyzABCXYZ0123456789 \'"&<>%\\/+=~-_.!*()äöü€’\n\t{}[]$#;:,😀';
const secretOf = ({ below }: Draw): string => {
	const letters = [...LETTERS];
	return Array.from({ length: 8 + below(16) }, () => letters[below(letters.length)]).join('');
};
const escapeXml = (text: string) => text.replace(/[<>&"'\n\t]/g, (c) => `&#${c.charCodeAt(0)};`);
type Coding = (text: string) => string;
const CODINGS: Coding[] = [
	(text) => text,
	(text) => JSON.stringify(text).slice(1, -1),
	(text) => encodeURIComponent(text),
	(text) => new URLSearchParams({ a: text }).toString().slice(2),
	(text) => escapeXml(text),
	(text) => Buffer.from(text).toString('hex'),
	(text) => Buffer.from(text).toString('base64'),
	(text) => Buffer.from(text).toString('base64url')
];
const WRAPPED: Coding[] = [
	(text) => JSON.stringify(text).slice(1, -1),
	(text) => escapeXml(text),
	(text) => encodeURIComponent(text)
];

/** Texts with a secret in whatever coding: none leaves, and what is printed obeys nobody. */
export const outputs: Family = {
	name: 'outputs',
	async open() {
		return {
			once(draw) {
				const secret = secretOf(draw);
				const redactor = createRedactor({ key: secret });
				const coded = draw.of(CODINGS)(secret);
				const twice = draw.below(2) === 0 ? draw.of(WRAPPED)(coded) : coded;
				const around = [secretOf(draw), secretOf(draw)].map((one) =>
					one.replace(/[%\\&+]/g, '').replace(/[A-Za-z0-9]$/, ' ')
				);
				const text = `${around[0]} ${twice} ${around[1]}`;
				const shown = redactor.text(text);
				if (shown.includes(twice))
					return Promise.resolve(`it stands in ${JSON.stringify(shown)}, from ${JSON.stringify(secret)}`);
				const octets = Buffer.from(redactor.bytes(Buffer.from(text)));
				if (octets.includes(twice)) return Promise.resolve(`it stands in octets, from ${JSON.stringify(secret)}`);
				// eslint-disable-next-line no-control-regex
				if (/[\u0000-\u0008\u000b-\u001f\u007f\u009b]/.test(tame(`\u001b[2J${text}\u0007\r::error::x`)))
					return Promise.resolve(`a terminal would obey ${JSON.stringify(text)}`);
				return Promise.resolve(undefined);
			}
		};
	}
};
