import { lookUp } from '../model/lookup.ts';
import { HeronError } from '../errors.ts';
import { withHeader, type PreparedRequest } from '../model/exchange.ts';
import { headerValue, headerValues, type Reply } from '../model/reply.ts';
import { bytesToHex, digestOf, utf8 } from '../values/index.ts';
import { parseChallenges, type Challenge } from './challenge.ts';
import { textIn, type CredentialKind } from './kind.ts';

/** What a server or a proxy asked for, and how often it was answered. */
export interface DigestAsked {
	realm: string;
	nonce: string;
	algorithm: string;
	qop: string;
	opaque?: string;
	userhash: boolean;
	count: number;
}

/** RFC 7616 section 6.1, strongest first. */
const ALGORITHMS: Record<string, 'sha512-256' | 'sha256' | 'md5'> = {
	'SHA-512-256': 'sha512-256',
	'SHA-256': 'sha256',
	MD5: 'md5'
};
const strength = (algorithm: string): number => Object.keys(ALGORITHMS).indexOf(base(algorithm));
const base = (algorithm: string): string => algorithm.toUpperCase().replace(/-SESS$/, '');

/** What an answer to a challenge is computed from (RFC 7616 section 3.4). */
export interface DigestInput {
	user: string;
	password: string;
	realm: string;
	nonce: string;
	algorithm: string;
	/** `auth`, `auth-int`, or empty for the way of RFC 2069. */
	qop: string;
	cnonce: string;
	/** Eight hexadecimal digits. */
	nc: string;
	method: string;
	/** Path and query, as they are sent. */
	uri: string;
	body: Uint8Array;
	/** The user is sent hashed. */
	userhash?: boolean;
}

/** The `response` parameter, and the user as it is sent (RFC 7616 sections 3.4.1 to 3.4.4). */
export function digestResponse(input: DigestInput): { response: string; user: string } {
	const { user, password, realm, nonce, algorithm, qop, cnonce, nc, method, uri, body } = input;
	const name = lookUp(ALGORITHMS, base(algorithm)) ?? 'md5';
	const h = (data: string | Uint8Array) => bytesToHex(digestOf(name, typeof data === 'string' ? utf8(data) : data));
	let a1 = `${user}:${realm}:${password}`;
	if (/-sess$/i.test(algorithm)) a1 = `${h(a1)}:${nonce}:${cnonce}`;
	const a2 = qop === 'auth-int' ? `${method}:${uri}:${h(body)}` : `${method}:${uri}`;
	const middle = qop ? `${nonce}:${nc}:${cnonce}:${qop}` : nonce;
	return { response: h(`${h(a1)}:${middle}:${h(a2)}`), user: input.userhash ? h(`${user}:${realm}`) : user };
}

/** The strongest challenge that can be answered. */
function choose(challenges: Challenge[]): Challenge | undefined {
	return challenges
		.filter(({ scheme, params }) => scheme === 'digest' && strength(params.algorithm ?? 'MD5') >= 0)
		.sort((a, b) => strength(a.params.algorithm ?? 'MD5') - strength(b.params.algorithm ?? 'MD5'))[0];
}

const quoted = (text: string) => `"${text.replace(/[\\"]/g, '\\$&')}"`;

/** What can be answered of challenges, the strongest first; why not, in words, when nothing can. */
export function digestAsked(challenges: Challenge[], wish = 'auth'): DigestAsked | { wanted: string; asked: string } {
	const challenge = choose(challenges);
	if (!challenge) {
		const asked = challenges.map(({ scheme, params }) => (scheme === 'digest' ? `Digest ${params.algorithm}` : scheme));
		return { wanted: 'Digest', asked: asked.join(', ') || 'nothing' };
	}
	const { params } = challenge;
	const offers = (params.qop ?? '')
		.split(',')
		.map((one) => one.trim().toLowerCase())
		.filter(Boolean);
	const qop = offers.includes(wish) ? wish : (offers.find((one) => one === 'auth' || one === 'auth-int') ?? '');
	if (offers.length > 0 && !qop) return { wanted: 'qop auth or auth-int', asked: `qop ${offers.join(', ')}` };
	return {
		realm: params.realm ?? '',
		nonce: params.nonce ?? '',
		algorithm: params.algorithm ?? '',
		qop,
		...(params.opaque === undefined ? {} : { opaque: params.opaque }),
		userhash: params.userhash?.toLowerCase() === 'true',
		count: 0
	};
}

/** Whether a challenge says that only its nonce was too old (RFC 7616 section 3.3). */
export const isStale = (challenges: Challenge[]): boolean => choose(challenges)?.params.stale?.toLowerCase() === 'true';

/** The value of Authorization or Proxy-Authorization, with the response in it; the count of `asked` goes up. */
export function digestField(
	asked: DigestAsked,
	given: Pick<DigestInput, 'user' | 'password' | 'method' | 'uri' | 'body' | 'cnonce'>
): { field: string; response: string } {
	const { realm, nonce, algorithm, qop, opaque, userhash } = asked;
	const { user, uri, cnonce } = given;
	const nc = (++asked.count).toString(16).padStart(8, '0');
	const made = digestResponse({ ...given, realm, nonce, algorithm, qop, nc, userhash });
	const plainUser = userhash || /^[\x20-\x7e]*$/.test(user);
	const parts = [
		plainUser ? `username=${quoted(made.user)}` : `username*=UTF-8''${encodeURIComponent(user)}`,
		`realm=${quoted(realm)}`,
		`nonce=${quoted(nonce)}`,
		`uri=${quoted(uri)}`,
		...(algorithm ? [`algorithm=${algorithm}`] : []),
		`response="${made.response}"`,
		...(opaque === undefined ? [] : [`opaque=${quoted(opaque)}`]),
		...(qop ? [`qop=${qop}`, `nc=${nc}`, `cnonce="${cnonce}"`] : []),
		...(userhash ? ['userhash=true'] : [])
	];
	return { field: `Digest ${parts.join(', ')}`, response: made.response };
}

export const digest: CredentialKind = {
	key: 'digest',
	label: 'Digest',
	standard: 'RFC 7616',
	doc: 'User and password proved by a digest that answers the server’s challenge.',
	fields: [
		{ name: 'user', label: 'User', doc: '', form: 'text', required: true },
		{ name: 'password', label: 'Password', doc: 'By reference.', form: 'text', secret: true, required: true },
		{
			name: 'qop',
			label: 'Protect',
			doc: 'auth: the request line; auth-int: the body too, where the server offers both.',
			form: 'choice',
			choices: ['auth', 'auth-int'],
			otherwise: 'auth'
		}
	],
	example: { kind: 'digest', user: 'keeper', password: '{$secret.keeperPassword}' },
	open(given, { name, ports, state, made: tell }) {
		const [user, password, wish] = [textIn(given, 'user'), textIn(given, 'password'), textIn(given, 'qop') || 'auth'];
		const keyOf = (request: PreparedRequest) => `digest ${name} ${new URL(request.url).origin}`;
		const answer = (request: PreparedRequest, known: DigestAsked): PreparedRequest => {
			const url = new URL(request.url);
			const { method, body } = request;
			const cnonce = bytesToHex(ports.randomBytes(16));
			const { field, response } = digestField(known, {
				...{ user, password, method, body, cnonce },
				uri: url.pathname + url.search
			});
			tell(`${name}.response`, response);
			return withHeader(request, 'Authorization', field);
		};
		return {
			async apply(request) {
				const known = state.get(keyOf(request)) as DigestAsked | undefined;
				return known ? answer(request, known) : request;
			},
			async retry(request, reply, attempt) {
				if (reply.status !== 401) return undefined;
				const challenges = parseChallenges(headerValues(reply.headers, 'www-authenticate'));
				const known = digestAsked(challenges, wish);
				if ('wanted' in known) throw new HeronError('auth.scheme', { name, ...known });
				// asked a second time without "stale": user or password is wrong, and asking on would never end
				const stale = isStale(challenges);
				if (attempt > 1 && !stale) return undefined;
				if (attempt > 2) return undefined;
				const before = state.get(keyOf(request)) as DigestAsked | undefined;
				if (before && before.nonce === known.nonce && !stale) return undefined;
				state.set(keyOf(request), known);
				return answer(request, known);
			},
			seen(request, reply: Reply) {
				// RFC 7616 section 3.5: the nonce to use from now on
				const known = state.get(keyOf(request)) as DigestAsked | undefined;
				const next = parseChallenges([`x ${headerValue(reply.headers, 'authentication-info') ?? ''}`])[0]?.params
					.nextnonce;
				if (known && next && next !== known.nonce) Object.assign(known, { nonce: next, count: 0 });
			}
		};
	}
};
