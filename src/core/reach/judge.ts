import { parseChallenges } from '../auth/index.ts';
import type { HeronError } from '../errors.ts';
import type { CertificateFacts, Exchange, PreparedRequest, TlsFacts } from '../model/exchange.ts';
import type { JsonObject } from '../model/json.ts';
import { headerValue, headerValues, isJsonType, mediaType, type Reply } from '../model/reply.ts';
import { slips } from '../messages.ts';
import { versionRange, type TlsVersion } from '../model/transport.ts';
import { decodeText } from '../values/index.ts';
import type { StageKey } from './diagnoses.ts';
import { found, type Mend, type Stage } from './stage.ts';

/** What a reach check works on. */
export interface ReachTarget {
	url: string;
	host: string;
	port: number;
	secure: boolean;
	/** `host:port`; empty without one. */
	proxy: string;
	/** The connection's name and document; none for a bare address. */
	connection?: { name: string; raw: JsonObject; environment: string; variant: boolean };
	/** The variables of the environment's own document. */
	variables: JsonObject;
	credential: { name: string; kind: string; label: string };
	/** Credentials of the project that could be tried. */
	others: { name: string; kind: string }[];
	/** A client certificate is shown in TLS. */
	shows?: boolean;
}

const CREDENTIALS_OFFERED = 3;
const DAY = 86_400_000;
const day = (time: number): string => new Date(time).toISOString().slice(0, 10);
export const daysLeft = (certificate: CertificateFacts, now: number): number =>
	Math.trunc((certificate.validTo - now) / DAY);

const daysWords = (one: CertificateFacts, now: number): string => {
	const left = daysLeft(one, now);
	return one.validTo > now ? `${left} days left` : `ended ${-left} days ago`;
};

/** As much of a target as a change of its files needs. */
type Written = Pick<ReachTarget, 'connection' | 'variables'>;

const connectionFile = (target: Written): string => `connections/${target.connection!.name}.yaml`;
/** Where a field of the connection stands: in what differs for the environment, if it differs there. */
function fieldPath(target: Written, path: string[]): (string | number)[] {
	const { variant, environment } = target.connection!;
	return variant ? ['environments', environment, ...path] : path;
}

/** Sets a field of the connection; nothing for a bare address. */
function settingMend(target: Written, label: string, path: string[], value: JsonObject[string] | undefined): Mend[] {
	if (!target.connection) return [];
	return [
		{
			label,
			edits: [
				{ file: connectionFile(target), path: fieldPath(target, path), ...(value === undefined ? {} : { value }) }
			]
		}
	];
}

/** Another base address: written where it stands, in the connection or in the variable it is made of. */
export function baseMend(target: Written, label: string, change: (url: string) => string): Mend[] {
	if (!target.connection) return [];
	const base = String(target.connection.raw.base ?? '');
	const variable = /^\{\$env\.([A-Za-z_]\w*)\}/.exec(base);
	if (!variable) return base.includes('{$') ? [] : settingMend(target, label, ['base'], change(base));
	const value = target.variables[variable[1]!];
	if (typeof value !== 'string' || value.includes('{$')) return [];
	return [
		{
			label,
			edits: [
				{
					file: `environments/${target.connection.environment}.yaml`,
					path: ['variables', variable[1]!],
					value: change(value)
				}
			]
		}
	];
}

/** What mends a base address that lacks its scheme. */
export function schemeMends(target: Written): Mend[] {
	const { connection, variables } = target;
	const base = String(connection?.raw.base ?? '').trim();
	const filled = base.replace(/^\{\$env\.(\w+)\}/, (whole, name: string) => String(variables[name] ?? whole));
	if (!/^[a-z\d][\w.-]*(:\d+)?(\/|$)/i.test(filled)) return [];
	return ['https', 'http'].flatMap((scheme) =>
		baseMend(target, `Begin it with ${scheme}://`, (url) => `${scheme}://${url.trim()}`)
	);
}

const withScheme = (scheme: string) => (url: string) => url.replace(/^https?:/i, `${scheme}:`);

/** What kept a connection from being opened; the stage is the first that was not reached. */
export function judgeOpening(
	target: ReachTarget,
	error: HeronError,
	context: {
		ms: number;
		stage: StageKey;
		tls?: TlsFacts;
		versions?: string[];
		/** A plain request to the same port was answered in HTTP. */
		plainAnswers?: boolean;
		now: number;
		limits: { range: string };
	}
): Stage {
	const { host, port, proxy } = target;
	const { ms, stage, tls, versions, now } = context;
	const { values, code } = error;
	const limit = String(values.limit ?? '');
	const more = { ms };
	switch (code) {
		case 'send.name':
			return found('name.notFound', { host }, more);
		case 'send.refused':
			return found('tcp.refused', { host, port }, more);
		case 'send.unreachable':
			return found('tcp.noRoute', { host }, more);
		case 'send.proxyAuth':
			return found('proxy.auth', {}, more);
		case 'send.proxy': {
			const mends = settingMend(target, `Reach ${host} without the proxy`, ['proxy'], bypassed(target));
			return found(
				stage === 'proxy' && values.status ? 'proxy.refused' : 'proxy.unreachable',
				{ proxy, detail: sentence(values.detail) },
				{ ms, mends }
			);
		}
		case 'tls.identity':
		case 'tls.pem':
		case 'file.missing':
			return found('tls.identity', { detail: sentence(error.message) }, more);
		case 'tls.client':
			return found(
				values.reason === 'refused' ? 'tls.clientRefused' : 'tls.clientMissing',
				{ detail: sentence(values.detail) },
				more
			);
		case 'tls.version':
			return judgeVersion(target, versions ?? [], error, ms);
		case 'tls.trust':
			return judgeTrust(target, String(values.reason), tls!, now, ms);
		case 'send.tls':
			if (values.reason === 'notTls') {
				const mends = context.plainAnswers ? baseMend(target, 'Use http://', withScheme('http')) : [];
				return found(
					'tls.notTls',
					{},
					{ ms, mends, facts: context.plainAnswers ? [['answers', 'plain HTTP at this port']] : [] }
				);
			}
			if (values.reason === 'cipher') {
				if (versions && versions.length > 0 && !inRange(target, versions))
					return judgeVersion(target, versions, error, ms);
				return found('tls.cipher', { range: context.limits.range }, { ms, facts: acceptsFact(versions) });
			}
			return found('tls.failed', { detail: sentence(values.detail) }, { ms, facts: acceptsFact(versions) });
		case 'send.timeout':
			if (stage === 'name') return found('name.timeout', { host, limit }, more);
			if (stage === 'proxy')
				return found('proxy.unreachable', { proxy, detail: `It does not answer within ${limit}` }, more);
			return found(stage === 'tls' ? 'tls.timeout' : 'tcp.timeout', { host, port, limit }, more);
		case 'send.reset':
			if (stage === 'tls' && versions && versions.length > 0 && !inRange(target, versions))
				return judgeVersion(target, versions, error, ms);
			return found(
				stage === 'tls' ? 'tls.reset' : 'tcp.reset',
				{ host, port },
				{ ms, facts: stage === 'tls' ? acceptsFact(versions) : [] }
			);
		default:
			return found(stage === 'tls' ? 'tls.failed' : 'settings.wrong', { detail: sentence(error.message) }, more);
	}
}

const sentence = (text: unknown): string => {
	const plain = String(text ?? '').replace(/\.$/, '');
	return plain.charAt(0).toUpperCase() + plain.slice(1);
};
const acceptsFact = (versions: string[] | undefined): Stage['facts'] =>
	versions && versions.length > 0 ? [['accepts', versions.map((version) => `TLS ${version}`).join(', ')]] : [];

function bypassed(target: ReachTarget): JsonObject {
	const given = target.connection?.raw.proxy;
	const settings = (typeof given === 'object' && given !== null ? given : { address: given ?? '' }) as JsonObject;
	const except = Array.isArray(settings.except) ? settings.except : [];
	return { ...settings, except: [...except, target.host] };
}

const tlsSettings = (target: ReachTarget): JsonObject => {
	const { tls } = target.connection?.raw ?? {};
	return (typeof tls === 'object' && tls !== null && !Array.isArray(tls) ? tls : {}) as JsonObject;
};
const rangeOf = (target: ReachTarget): [string, string] => {
	const { min, max } = tlsSettings(target);
	const text = (given: unknown) => (given === undefined ? '' : String(given)) as TlsVersion | '';
	const range = versionRange({ min: text(min), max: text(max) });
	return [range.min, range.max];
};
const inRange = (target: ReachTarget, versions: string[]): boolean => {
	const [low, high] = rangeOf(target);
	return versions.some((version) => version >= low && version <= high);
};

function judgeVersion(target: ReachTarget, versions: string[], error: HeronError, ms: number): Stage {
	const [low, high] = rangeOf(target);
	const spoken = low === high ? `TLS ${low}` : `TLS ${low} to ${high}`;
	if (versions.length === 0)
		return found(
			'tls.version',
			{
				detail: `We speak ${spoken}, and the server takes no version that we could try. ${sentence(error.values.detail)}`
			},
			{ ms }
		);
	const [highest] = [...versions].sort().reverse();
	const lower = highest! < low;
	const mends = settingMend(
		target,
		lower ? `Allow TLS ${highest} here` : `Raise to TLS ${versions[0]!}`,
		['tls', lower ? 'min' : 'max'],
		lower ? highest! : versions[0]!
	);
	const detail = `We speak ${spoken}, the server only ${versions.map((version) => `TLS ${version}`).join(', ')}${lower ? '. Versions before 1.2 are not safe: better its owner raises it' : ''}`;
	return found('tls.version', { detail }, { ms, facts: acceptsFact(versions), mends });
}

/** Facts of the server's certificate. */
export function certificateRows(tls: TlsFacts, now: number): Stage['facts'] {
	const [leaf] = tls.chain;
	if (!leaf) return [];
	return [
		['for', leaf.names.join(', ') || leaf.subject],
		['issued by', leaf.issuer],
		['valid', `${day(leaf.validFrom)} to ${day(leaf.validTo)}, ${daysWords(leaf, now)}`],
		['fingerprint', leaf.fingerprint],
		...tls.chain.slice(1).map((one): [string, string] => ['vouched by', `${one.subject}, ${daysWords(one, now)}`])
	];
}

const fileName = (text: string): string =>
	text
		.toLowerCase()
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-|-$/g, '')
		.slice(0, 40) || 'authority';

function trustMend(target: ReachTarget, certificate: CertificateFacts | undefined, label: string): Mend[] {
	if (!target.connection || !certificate?.pem) return [];
	const path = `files/trusted/${fileName(certificate.subject)}-${certificate.fingerprint.replace(/:/g, '').slice(0, 8).toLowerCase()}.pem`;
	const before = tlsSettings(target).authorities;
	const value = [...(Array.isArray(before) ? before : []), path];
	return [
		{
			label,
			edits: [{ file: connectionFile(target), path: fieldPath(target, ['tls', 'authorities']), value }],
			files: [{ path, text: certificate.pem }]
		}
	];
}

function judgeTrust(target: ReachTarget, reason: string, tls: TlsFacts, now: number, ms: number): Stage {
	const { chain } = tls;
	const [leaf] = chain;
	const top = chain.at(-1);
	const facts = certificateRows(tls, now);
	const more = (mends: Mend[]) => ({ ms, facts, mends, chain });
	switch (reason) {
		case 'CERT_HAS_EXPIRED': {
			// it may be one further up
			const ended = chain.find((one) => one.validTo < now) ?? leaf!;
			return found(
				'tls.expired',
				{ date: day(ended.validTo), days: Math.max(0, Math.floor((now - ended.validTo) / DAY)) },
				more([])
			);
		}
		case 'CERT_NOT_YET_VALID':
			return found(
				'tls.notYet',
				{ date: day(leaf!.validFrom), now: new Date(now).toISOString().slice(0, 16).replace('T', ' ') },
				more([])
			);
		case 'ERR_TLS_CERT_ALTNAME_INVALID': {
			const names = leaf!.names.filter((name) => !name.includes('*'));
			const mends = names
				.slice(0, 3)
				.flatMap((name) => settingMend(target, `Use the name ${name}`, ['tls', 'name'], name));
			return found(
				'tls.wrongName',
				{ names: leaf!.names.join(', ') || leaf!.subject, host: String(tlsSettings(target).name ?? target.host) },
				more(mends)
			);
		}
		case 'DEPTH_ZERO_SELF_SIGNED_CERT':
			return found('tls.selfSigned', {}, more(trustMend(target, leaf, 'Trust this certificate here')));
		default:
			// OpenSSL has several words for it: what was sent along decides
			if (tls.chain.length === 1)
				return found(
					'tls.missingIntermediate',
					{ issuer: leaf!.issuer },
					more(trustMend(target, leaf, 'Trust this certificate here'))
				);
			return found(
				'tls.unknownAuthority',
				{ issuer: top!.issuer },
				more(trustMend(target, top, 'Trust this authority here'))
			);
	}
}

/** Whether and why the call itself failed, once the connection was there. */
export function judgeHttpError(target: ReachTarget, error: HeronError, ms: number, speaksTls: boolean): Stage {
	if (speaksTls) return found('http.isTls', {}, { ms, mends: baseMend(target, 'Use https://', withScheme('https')) });
	const { code, values } = error;
	if (code === 'tls.client')
		return found(
			values.reason === 'refused' ? 'tls.clientRefused' : 'tls.clientMissing',
			{ detail: sentence(values.detail) },
			{ ms }
		);
	if (code === 'send.notHttp') return found('http.notHttp', { start: String(values.start) }, { ms });
	if (code === 'send.timeout')
		return found('http.timeout', { limit: String(values.limit), phase: String(values.phase) }, { ms });
	if (code === 'send.reset' && target.shows)
		return found('tls.clientRefused', { detail: 'It closed the connection when our certificate was shown' }, { ms });
	if (code === 'send.reset') return found('http.reset', {}, { ms });
	if (code === 'send.http2')
		return found(
			'http.version',
			{ detail: sentence(values.detail) },
			{ ms, mends: settingMend(target, 'Use HTTP/1.1', ['http'], '1.1') }
		);
	if (code === 'send.proxyAuth') return found('proxy.auth', {}, { ms });
	return found('http.failed', { detail: sentence(error.message) }, { ms });
}

/** Redirects of the first call: where they lead, and whether they ever end. */
export function judgeRedirects(target: ReachTarget, exchanges: Exchange[], ms: number): Stage | undefined {
	const hops = exchanges.filter(
		(exchange) =>
			(exchange.reply?.status ?? 0) >= 300 &&
			(exchange.reply?.status ?? 0) < 400 &&
			headerValue(exchange.reply!.headers, 'location')
	);
	if (hops.length === 0) return undefined;
	const seen = new Set<string>();
	for (const { url } of exchanges) {
		if (seen.has(url)) return found('http.redirectLoop', { count: exchanges.length - 1, address: url }, { ms });
		seen.add(url);
	}
	const last = exchanges.at(-1)!;
	const final =
		last.reply && last.reply.status >= 300 && last.reply.status < 400
			? new URL(headerValue(last.reply.headers, 'location')!, last.url).href
			: last.url;
	const facts: Stage['facts'] = hops.map((hop) => [
		String(hop.reply!.status),
		headerValue(hop.reply!.headers, 'location')!
	]);
	const mends = baseMend(target, `Use ${final}`, () => final.replace(/\/$/, ''));
	return found('http.redirect', { address: final, status: hops[0]!.reply!.status }, { ms, facts, mends });
}

const HEADERS = [
	...[
		'Authorization',
		'Accept',
		'Accept-Language',
		'Content-Type',
		'Content-Length',
		'User-Agent',
		'Cookie',
		'Origin',
		'Referer'
	],
	...[
		'X-API-Key',
		'X-Request-ID',
		'X-Correlation-ID',
		'If-Match',
		'If-None-Match',
		'Prefer',
		'Signature',
		'Signature-Input',
		'Date',
		'Digest',
		'Content-Digest',
		'SOAPAction'
	]
];

/** Swapped, lost, added or changed letters between two names: whether it is one or two slips, but not none. */
export function isSlip(a: string, b: string): boolean {
	const apart = slips(a.toLowerCase(), b.toLowerCase());
	// short names are one slip away from half the alphabet
	return apart === 1 || (apart === 2 && Math.min(a.length, b.length) >= 8);
}

/** A header that the other side misses, by what it says. */
function missingHeader(reply: Reply): { header: string; said: string } | undefined {
	if (reply.status < 400 || reply.status > 499) return undefined;
	const { type } = mediaType(reply.headers);
	if (type === 'text/html') return undefined;
	const text = decodeText(reply.body.subarray(0, 4000)).text;
	const name = '["“\'`]?([A-Za-z][A-Za-z0-9]*(?:-[A-Za-z0-9]+)+|Authorization|Accept|Date)["”\'`]?';
	const patterns = [
		new RegExp(`(?:missing|without|lacks|no|required?)[^.\\n]{0,24}?\\bheader(?: field)?[: ]+${name}`, 'i'),
		new RegExp(
			`\\bheader(?: field)? ${name}[^.\\n]{0,16}?(?:missing|required|absent|not (?:set|found|given|present))`,
			'i'
		),
		new RegExp(
			`${name} (?:request )?header[^.\\n]{0,16}?(?:missing|required|absent|not (?:set|found|given|present))`,
			'i'
		),
		new RegExp(`(?:missing|requires?)[: ]+(?:the )?${name}(?: (?:request )?header)`, 'i')
	];
	for (const pattern of patterns) {
		const match = pattern.exec(text);
		if (match) return { header: match[1]!, said: match[0].replace(/\s+/g, ' ').slice(0, 120) };
	}
	return undefined;
}

const where = (target: ReachTarget, header: string): 'connection' | 'credential' =>
	Object.keys((target.connection?.raw.headers ?? {}) as object).some(
		(name) => name.toLowerCase() === header.toLowerCase()
	)
		? 'connection'
		: 'credential';

/** Renames a header where it is written: among the connection's own, or where a credential puts it. */
function renameMend(target: ReachTarget, sent: string, wanted: string, credential: JsonObject | undefined): Mend[] {
	if (!target.connection) return [];
	const label = `Write it ${wanted}`;
	const rename = (map: JsonObject) =>
		Object.fromEntries(
			Object.entries(map).map(([name, value]) => [name.toLowerCase() === sent.toLowerCase() ? wanted : name, value])
		);
	const { headers } = target.connection.raw;
	if (
		where(target, sent) === 'connection' &&
		typeof headers === 'object' &&
		headers !== null &&
		!Array.isArray(headers)
	)
		return settingMend(target, label, ['headers'], rename(headers as JsonObject));
	if (!credential) return [];
	const file = `credentials/${target.credential.name}.yaml`;
	if (credential.kind === 'api-key') return [{ label, edits: [{ file, path: ['name'], value: wanted }] }];
	const put = (credential.put as JsonObject | undefined)?.header;
	if (typeof put === 'object' && put !== null && !Array.isArray(put))
		return [{ label, edits: [{ file, path: ['put', 'header'], value: rename(put as JsonObject) }] }];
	return [];
}

/** A header that is sent under a name that nobody knows but that is close to a known one. */
export function judgeHeaderNames(
	target: ReachTarget,
	request: PreparedRequest,
	reply: Reply,
	credential: JsonObject | undefined,
	ms: number
): Stage | undefined {
	const missing = missingHeader(reply);
	const ours = request.headers.filter((_, index) => request.origins[index] !== 'added').map(([name]) => name);
	const wanted = missing ? [missing.header] : HEADERS;
	for (const sent of ours) {
		if (!missing && HEADERS.some((name) => name.toLowerCase() === sent.toLowerCase())) continue;
		const right = wanted.find((name) => isSlip(sent, name));
		if (right)
			return found(
				'auth.headerSlip',
				{ sent, wanted: right },
				{
					ms,
					facts: missing ? [['the server says', missing.said]] : [],
					mends: renameMend(target, sent, right, credential)
				}
			);
	}
	if (!missing || ours.some((name) => name.toLowerCase() === missing.header.toLowerCase())) return undefined;
	const headers = (target.connection?.raw.headers ?? {}) as JsonObject;
	const mends = Array.isArray(headers)
		? []
		: settingMend(target, `Add the header ${missing.header}`, ['headers'], { ...headers, [missing.header]: '' });
	return found('auth.missingHeader', { header: missing.header, said: missing.said }, { ms, mends });
}

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
		const name = SCHEME_NAMES[scheme] ?? scheme;
		return params.algorithm ? `${name} (${params.algorithm})` : name;
	});
	const facts = challenges.flatMap(({ params }): Stage['facts'] => (params.realm ? [['realm', params.realm]] : []));
	return {
		words: words.join(' or ') || 'nothing that it names',
		schemes: challenges.map(({ scheme }) => scheme),
		facts
	};
}

const saidIn = (reply: Reply): string => {
	const { type } = mediaType(reply.headers);
	const text = decodeText(reply.body.subarray(0, 2000)).text.trim();
	if (!text || type === 'text/html') return '';
	let said = text;
	try {
		const data = JSON.parse(text) as Record<string, unknown>;
		const inner = [data.error_description, data.detail, data.message, data.title, data.error].find(
			(one) => typeof one === 'string'
		);
		if (typeof inner === 'string') said = inner;
	} catch {
		// said as it stands
	}
	return `: “${said.replace(/\s+/g, ' ').slice(0, 160)}”`;
};

/** Whether we were let in. Undefined when nothing speaks against it. */
export function judgeAuthentication(target: ReachTarget, reply: Reply, ms: number): Stage | undefined {
	const { credential } = target;
	if (reply.status === 401) {
		const { words, schemes, facts } = schemesOf(reply);
		const answers = (kind: string) =>
			schemes.some((scheme) => (SCHEME_KINDS[scheme] ?? [credential.kind]).includes(kind));
		const mends = target.others
			.filter((one) => answers(one.kind))
			.slice(0, CREDENTIALS_OFFERED)
			.flatMap(({ name }) => settingMend(target, `Sign in as ${name}`, ['credential'], name));
		if (!credential.name) return found('auth.unauthorized', { schemes: words }, { ms, facts, mends });
		if (schemes.length > 0 && !answers(credential.kind))
			return found(
				'auth.scheme',
				{ schemes: words, name: credential.name, kind: credential.label },
				{ ms, facts, mends }
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

/** What the first answer says of the address. Undefined when it is an answer of an API. */
export function judgeAnswer(reply: Reply, ms: number): Stage | undefined {
	const { status } = reply;
	const { type } = mediaType(reply.headers);
	const facts: Stage['facts'] = [
		['status', `${status} ${reply.reason}`.trim()],
		...(type ? [['type', type] as [string, string]] : [])
	];
	const more = { ms, facts };
	if (status === 404 || status === 410) return found('answer.notFound', {}, more);
	if (status === 405) {
		const allowed = (headerValue(reply.headers, 'allow') ?? '')
			.split(',')
			.map((one) => one.trim().toUpperCase())
			.filter(Boolean);
		const safe = allowed.filter((method) => method === 'HEAD' || method === 'OPTIONS');
		const mends: Mend[] = safe.slice(0, 1).map((method) => ({ label: `Check with ${method}`, edits: [], method }));
		return found('answer.method', { methods: allowed.join(', ') || 'none that it names' }, { ...more, mends });
	}
	if (status === 429) {
		const after = headerValue(reply.headers, 'retry-after');
		return found('answer.tooMany', { detail: after ? ` of ${/^\d+$/.test(after) ? `${after} s` : after}` : '' }, more);
	}
	if (status >= 500) return found('answer.trouble', { status, detail: saidIn(reply) }, more);
	if (status >= 400 && status !== 401 && status !== 403)
		return found('answer.refused', { status, detail: saidIn(reply) }, more);
	const text = decodeText(reply.body.subarray(0, 2000)).text;
	if (!isJsonType(type) && (type === 'text/html' || /^\s*<(!doctype html|html)/i.test(text))) {
		const page =
			/<title[^>]*>([^<]*)/i.exec(text)?.[1]?.trim() ??
			text
				.replace(/<[^>]*>/g, ' ')
				.replace(/\s+/g, ' ')
				.trim()
				.slice(0, 60);
		return found('answer.html', { page: page || 'a page without a title' }, more);
	}
	return undefined;
}
