import Fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';
import { createServerless, passwordDigest, type Server } from 'soap';
import { schema, TYPES, wsdl } from './definition.ts';
import { LOCKS, tollOf, type Ledger, type Passage } from './ledger.ts';
import { packed, unpacked } from './attachments.ts';

const CLERKS = new Map([
	['avery', 'lock-gate-9'],
	['blake', 'lock-gate-9']
]);
const CLOCK_SKEW_MS = 300_000;

type Version = '1.1' | '1.2';
interface Problem {
	code: 'Client' | 'Server';
	reason: string;
	field?: string;
	limit?: number;
	subcode?: string;
}

const escape = (text: string) => text.replace(/[&<]/g, (c) => (c === '&' ? '&amp;' : '&lt;'));

/** A fault as the library wants it, in the form of the version. */
function faultOf({ code, reason, field, limit, subcode }: Problem, version: Version) {
	const inner = field
		? `<t:PassageFault xmlns:t="${TYPES}"><t:field>${escape(field)}</t:field>${limit === undefined ? '' : `<t:limit>${limit}</t:limit>`}</t:PassageFault>`
		: '';
	if (version === '1.1')
		return {
			Fault: {
				faultcode: subcode ?? `soap:${code}`,
				faultstring: reason,
				...(inner ? { detail: { $xml: inner } } : {}),
				statusCode: 500
			}
		};
	return {
		Fault: {
			Code: {
				Value: code === 'Client' ? 'soap:Sender' : 'soap:Receiver',
				Subcode: { Value: subcode ?? `l:${field ? 'BadPassage' : 'Refused'}` }
			},
			Reason: { Text: { attributes: { 'xml:lang': 'en' }, $value: reason } },
			Node: 'urn:reedmere:toll-house',
			...(inner ? { Detail: { $xml: inner } } : {}),
			statusCode: code === 'Client' ? 400 : 500
		}
	};
}

interface Token {
	Username?: string;
	Password?: { $value?: string; attributes?: { Type?: string } } | string;
	Nonce?: { $value?: string } | string;
	Created?: string;
}
const textOf = (value: { $value?: string } | string | undefined): string =>
	typeof value === 'object' ? (value.$value ?? '') : (value ?? '');

/** What is wrong with a UsernameToken; undefined when nothing is. */
function tokenProblem(token: Token | undefined, seen: Set<string>): string | undefined {
	if (!token) return 'a UsernameToken is wanted';
	const password = CLERKS.get(textOf(token.Username));
	if (password === undefined) return 'user or password is wrong';
	const given = textOf(token.Password);
	const type = typeof token.Password === 'object' ? (token.Password.attributes?.Type ?? '') : '';
	if (!type.endsWith('#PasswordDigest')) return given === password ? undefined : 'user or password is wrong';
	const [nonce, created] = [textOf(token.Nonce), textOf(token.Created)];
	if (!nonce || !created) return 'a digest goes with a nonce and the time of its making';
	if (!(Math.abs(Date.now() - Date.parse(created)) < CLOCK_SKEW_MS))
		return 'the token was made too long ago, or is of the future';
	if (passwordDigest(nonce, created, password) !== given) return 'user or password is wrong';
	if (seen.has(nonce)) return 'the nonce was used before';
	seen.add(nonce);
	return undefined;
}

interface Craft {
	name?: string;
	kind?: string;
	length?: string;
	licence?: string;
}
const plain = (value: unknown): string =>
	typeof value === 'object' && value !== null && '$value' in value
		? String(value.$value)
		: String((value ?? '') as string);

/** Throws a fault. */
type Refuse = (problem: Problem) => never;

function craftAt(lock: string, given: Craft | undefined, refuse: Refuse): Passage['craft'] {
	const most = LOCKS[lock];
	if (most === undefined)
		refuse({ code: 'Client', reason: `no toll is taken at ${lock || 'a lock without a name'}`, field: 'lock' });
	const craft = given ?? {};
	const length = plain(craft.length);
	if (!(Number(length) > 0))
		refuse({ code: 'Client', reason: 'the length of the craft is no number of metres', field: 'length' });
	if (Number(length) > most!)
		refuse({ code: 'Client', reason: `${plain(craft.name)} is too long for ${lock}`, field: 'length', limit: most! });
	const licence = plain(craft.licence);
	return { name: plain(craft.name), kind: plain(craft.kind), length, ...(licence ? { licence } : {}) };
}

const viewOf = ({ number, lock, craft, direction, passedAt, pence }: Passage) => ({
	...{ number, lock, craft, direction, passedAt, pence }
});

/** What the ledger does, on the library's terms: what is thrown is a fault. */
function serviceOf(ledger: Ledger, version: Version, nonces: Set<string>) {
	const refuse: Refuse = (problem) => {
		// the library wants a plain object
		throw faultOf(problem, version) as unknown as Error;
	};
	const found = (number: unknown): Passage =>
		ledger.passages.get(plain(number)) ??
		refuse({ code: 'Client', reason: `there is no passage ${plain(number)}`, field: 'number' });
	return {
		QuoteToll(args: { lock?: string; craft?: Craft; season?: string; on?: unknown; reduction?: unknown }) {
			const craft = craftAt(plain(args.lock), args.craft, refuse);
			const reductions = (Array.isArray(args.reduction) ? args.reduction : args.reduction ? [args.reduction] : []) as {
				attributes?: { percent?: string };
			}[];
			const month = Number(
				/^\d{4}-(\d\d)/.exec(args.on instanceof Date ? args.on.toISOString() : plain(args.on))?.[1] ?? 6
			);
			const season = plain(args.season) || (month >= 4 && month <= 9 ? 'summer' : 'winter');
			const { pence, lines } = tollOf(
				craft,
				season,
				reductions.map((one) => Number(one.attributes?.percent ?? 0))
			);
			return { pence, line: lines };
		},
		RecordPassage(
			args: { lock?: string; craft?: Craft; direction?: string; passedAt?: unknown },
			_: unknown,
			headers: { Security?: { UsernameToken?: Token } } | undefined
		) {
			const wrong = tokenProblem(headers?.Security?.UsernameToken, nonces);
			if (wrong) refuse({ code: 'Client', reason: wrong, subcode: 'wsse:FailedAuthentication' });
			const craft = craftAt(plain(args.lock), args.craft, refuse);
			const passedAt = args.passedAt instanceof Date ? args.passedAt.toISOString() : plain(args.passedAt);
			const { pence } = tollOf(craft, 'summer', []);
			const made = ledger.record({ lock: plain(args.lock), craft, direction: plain(args.direction), passedAt, pence });
			return { number: made.number, recordedAt: new Date(made.recordedAt).toISOString() };
		},
		FetchPassage: (args: { number?: string }) => ({ passage: viewOf(found(args.number)) }),
		ListPassages: (args: { lock?: string } | null) => {
			const lock = plain(args?.lock);
			return { passage: [...ledger.passages.values()].filter((one) => !lock || one.lock === lock).map(viewOf) };
		},
		FetchReceipt(args: { number?: string }) {
			const { number, lock, pence, craft } = found(args.number);
			const text = `Reedmere Waterways\nReceipt for passage ${number}\n${craft.name}, ${lock}: ${(pence / 100).toFixed(2)}\n`;
			return { name: `${number}.txt`, receipt: Buffer.from(text).toString('base64') };
		},
		CountPassages: (args: { lock?: string; kind?: string }) => ({
			passages: [...ledger.passages.values()].filter(
				(one) => one.lock === plain(args.lock) && one.craft.kind === plain(args.kind)
			).length
		})
	};
}

const MEDIA: Record<Version, string> = {
	'1.1': 'text/xml; charset=utf-8',
	'1.2': 'application/soap+xml; charset=utf-8'
};

const ENVELOPES: Record<Version, string> = {
	'1.1': 'http://schemas.xmlsoap.org/soap/envelope/',
	'1.2': 'http://www.w3.org/2003/05/soap-envelope'
};
/** The namespace of an envelope. */
const ENVELOPE =
	/<(?:[\w.-]+:)?Envelope\b[^>]*?xmlns(?::[\w.-]+)?\s*=\s*["'](http:\/\/[^"']*soap[^"']*envelope\/?)["']/;

/** What answers envelopes of both versions. */
async function serversOf(ledger: Ledger): Promise<Record<Version, Server>> {
	const nonces = new Set<string>();
	// the library reads imports from disk, so it is given the definition as one
	const whole = wsdl('http://127.0.0.1').replace(
		/<xs:schema><xs:import[^>]*\/><\/xs:schema>/,
		schema.replace(/^<\?xml[^>]*\?>\s*/, '')
	);
	const serverOf = (version: Version): Promise<Server> => {
		const service = serviceOf(ledger, version, nonces);
		const { CountPassages, ...ofLedger } = service;
		return createServerless({
			path: '/ledger',
			xml: whole,
			services: {
				TollLedger: { TollLedger11: ofLedger, TollLedger12: ofLedger },
				TollDesk: { TollDesk11: { CountPassages } }
			} as never,
			...(version === '1.2' ? { forceSoap12Headers: true } : {}),
			suppressStack: true
		} as never);
	};
	return { '1.1': await serverOf('1.1'), '1.2': await serverOf('1.2') };
}

/** The toll ledger of Reedmere Waterways: SOAP 1.1 and 1.2. */
export async function createTolls(ledger: Ledger): Promise<FastifyInstance> {
	const app = Fastify({ forceCloseConnections: true, bodyLimit: 10_000_000 });
	app.removeAllContentTypeParsers();
	app.addContentTypeParser('*', { parseAs: 'buffer' }, (_, body, done) => done(null, body));
	const servers = await serversOf(ledger);

	const answer = (path: string, version: Version) => async (request: FastifyRequest, reply: FastifyReply) => {
		const envelope = unpacked(request.body as Buffer, request.headers['content-type'] ?? '');
		const found = ENVELOPE.exec(envelope)?.[1];
		if (found && found !== ENVELOPES[version]) {
			// SOAP 1.1 section 4.1.2, SOAP 1.2 part 1 section 5.4.7
			const fault = `<soap:Envelope xmlns:soap="http://schemas.xmlsoap.org/soap/envelope/"><soap:Body><soap:Fault><faultcode>soap:VersionMismatch</faultcode><faultstring>SOAP ${version} is spoken here</faultstring></soap:Fault></soap:Body></soap:Envelope>`;
			return reply.code(500).type(MEDIA['1.1']).send(fault);
		}
		const done = await servers[version].processRequest(envelope, {
			url: path,
			method: 'POST',
			headers: request.headers as Record<string, string>
		});
		void reply.code(done.statusCode);
		// the library writes the parts of an RPC answer with a prefix; WS-I Basic Profile 1.1 R2735 has them without
		if (path === '/desk') done.body = done.body.replace(/<(\/?)l:passages>/g, '<$1passages>');
		const receipt = packed(done.body, MEDIA[version]);
		if (!receipt) return reply.type(MEDIA[version]).send(done.body);
		return reply.header('content-type', receipt.type).send(receipt.body);
	};
	app.post('/ledger', answer('/ledger', '1.1'));
	app.post('/ledger12', answer('/ledger12', '1.2'));
	app.post('/desk', answer('/desk', '1.1'));
	const give = (request: FastifyRequest<{ Querystring: Record<string, string> }>, reply: FastifyReply) =>
		Object.keys(request.query).some((name) => name.toLowerCase() === 'wsdl')
			? reply.type('text/xml; charset=utf-8').send(wsdl(`http://${request.headers.host}`))
			: reply
					.code(405)
					.header('allow', 'POST')
					.send({ detail: 'an envelope is wanted, by POST; ?wsdl gives the definition' });
	app.get('/ledger', give);
	app.get('/ledger12', give);
	app.get('/desk', give);
	app.get('/tolls.xsd', (_, reply) => reply.type('text/xml; charset=utf-8').send(schema));
	app.post('/reset', (_, reply) => {
		ledger.reset();
		return reply.code(204).send();
	});
	return app;
}
