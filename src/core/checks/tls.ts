import { isObject } from '../model/json.ts';
import { parseDuration, showDuration } from '../model/units.ts';
import type { CheckKind } from './kind.ts';

const VERSIONS = ['1.0', '1.1', '1.2', '1.3'];
const numberOf = (text: unknown): string =>
	String(text)
		.replace(/^TLSv?\s*/i, '')
		.replace(/^1$/, '1.0');
const DAY = 86_400_000;

export const tls: CheckKind<'tls'> = {
	key: 'tls',
	label: 'tls',
	doc: 'What was agreed on for a secure connection: the lowest `version`, and for how long the certificate must be valid yet.',
	example: { tls: { version: '1.2', validFor: '30 d' } },
	form: 'value',
	problem(value) {
		if (!isObject(value) || Object.keys(value).length === 0)
			return 'version or validFor is wanted: { version: "1.3", validFor: 30 d }';
		for (const key of Object.keys(value))
			if (key !== 'version' && key !== 'validFor') return `unknown key "${key}"; known are version, validFor`;
		if (value.version !== undefined && !VERSIONS.includes(numberOf(value.version)))
			return `version is one of ${VERSIONS.join(', ')}`;
		if (value.validFor !== undefined && parseDuration(value.validFor) === undefined)
			return 'validFor is a duration, such as 30 d';
		return undefined;
	},
	look: ({ tls }) => ({ found: tls !== undefined, value: undefined }),
	judge(_, expected, { tls: facts, now }) {
		if (!facts) return { holds: false, received: 'a connection without TLS' };
		const wanted = (isObject(expected) ? expected : {}) as Record<string, unknown>;
		const version = VERSIONS.indexOf(numberOf(facts.version));
		const until = facts.chain[0]?.validTo;
		const left = until === undefined ? 0 : until - now();
		const long = wanted.validFor === undefined || left >= (parseDuration(wanted.validFor) ?? 0);
		const holds = long && (wanted.version === undefined || version >= VERSIONS.indexOf(numberOf(wanted.version)));
		const rest =
			until === undefined
				? 'no certificate'
				: left < 0
					? 'a certificate that has expired'
					: `a certificate valid for ${left > 2 * DAY ? `${Math.floor(left / DAY)} d` : showDuration(left)}`;
		return { holds, received: `${facts.version}, ${rest}` };
	}
};
