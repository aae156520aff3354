import { lookUp } from '../model/lookup.ts';
import { parseChallenges } from '../auth/index.ts';
import { headerValue, headerValues, type Reply } from '../model/reply.ts';
import { settingFix } from './fixes.ts';
import { found, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';
import { saidIn } from './words.ts';

const CREDENTIALS_OFFERED = 3;
const SCHEME_KINDS: Record<string, string[]> = {
	basic: ['basic'],
	digest: ['digest'],
	bearer: ['bearer', 'oauth2', 'jwt'],
	oauth: ['oauth1'],
	negotiate: [],
	ntlm: []
};
const SCHEME_NAMES: Record<string, string> = {
	basic: 'Basic',
	digest: 'Digest',
	bearer: 'Bearer',
	oauth: 'OAuth',
	negotiate: 'Negotiate',
	ntlm: 'NTLM'
};

/** What the server asks for in a 401, in words. */
export function schemesOf(reply: Reply): { words: string; schemes: string[]; facts: Stage['facts'] } {
	const challenges = parseChallenges(headerValues(reply.headers, 'www-authenticate'));
	const words = challenges.map(({ scheme, params }) => {
		const name = lookUp(SCHEME_NAMES, scheme) ?? scheme;
		return params.algorithm ? `${name} (${params.algorithm})` : name;
	});
	const facts = challenges.flatMap(({ params }): Stage['facts'] => (params.realm ? [['realm', params.realm]] : []));
	return {
		words: words.join(' or ') || 'nothing that it names',
		schemes: challenges.map(({ scheme }) => scheme),
		facts
	};
}

/** Whether we were let in. Undefined when nothing speaks against it. */
export function judgeAuthentication(target: ReachTarget, reply: Reply, ms: number): Stage | undefined {
	const { credential } = target;
	if (reply.status === 401) {
		const { words, schemes, facts } = schemesOf(reply);
		const answers = (kind: string) =>
			schemes.some((scheme) => (lookUp(SCHEME_KINDS, scheme) ?? [credential.kind]).includes(kind));
		const fixes = target.others
			.filter((one) => answers(one.kind))
			.slice(0, CREDENTIALS_OFFERED)
			.flatMap(({ name }) => settingFix(target, `Sign in as ${name}`, ['credential'], name));
		if (!credential.name) return found('auth.unauthorized', { schemes: words }, { ms, facts, fixes });
		if (schemes.length > 0 && !answers(credential.kind))
			return found(
				'auth.scheme',
				{ schemes: words, name: credential.name, kind: credential.label },
				{ ms, facts, fixes }
			);
		return found('auth.refused', { name: credential.name, detail: saidIn(reply) }, { ms, facts });
	}
	if (reply.status === 403) return found('auth.forbidden', { detail: saidIn(reply) }, { ms });
	return undefined;
}

const SKEW_S = 60;
/** Whether the clocks agree well enough for signatures and tokens. */
export function judgeSkew(reply: Reply, now: number, ms: number): Stage | undefined {
	const theirs = Date.parse(headerValue(reply.headers, 'date') ?? '');
	if (Number.isNaN(theirs)) return undefined;
	const seconds = Math.round(Math.abs(theirs - now) / 1000);
	const clock = (time: number) => new Date(time).toISOString().slice(11, 19);
	return seconds > SKEW_S
		? found('auth.skew', { seconds, theirs: clock(theirs), ours: clock(now) }, { ms })
		: undefined;
}
