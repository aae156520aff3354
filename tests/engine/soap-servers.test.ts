import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFileSync } from 'node:fs';
import { listen } from 'soap';
import strong from 'strong-soap';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { schema } from '../../standins/tolls/definition.ts';
import { createTolls } from '../../standins/tolls/index.ts';
import { createLedger } from '../../standins/tolls/ledger.ts';
import { contextOf, runAll, steps } from '../support/project.ts';
import { fetchDefinition } from '#server/engine/index.ts';

const definition = readFileSync(new URL('../../demo/reedmere/definitions/tolls/ledger.wsdl', import.meta.url), 'utf8');
const files = { 'definitions/tolls/ledger.wsdl': definition, 'definitions/tolls/tolls.xsd': schema };
/** In one piece, for libraries that read imports from disk. */
const whole = definition.replace(
	/<xs:schema><xs:import[^>]*\/><\/xs:schema>/,
	schema.replace(/^<\?xml[^>]*\?>\s*/, '')
);

const passage = {
	number: 'LP-40118',
	lock: 'Mill Lock',
	craft: { name: 'Pike', kind: 'barge', length: '12.5' },
	direction: 'up',
	passedAt: '2027-05-02T08:10:00Z',
	pence: '875'
};
/** The same service for both libraries; a number it does not know is a fault, with a detail as the library writes it. */
const serviceWith = (detail: object) => ({
	QuoteToll: () => ({ pence: 875, line: [{ text: 'barge', pence: 875 }] }),
	FetchPassage({ number }: { number: string }) {
		if (number === passage.number) return { passage };
		throw Object.assign(new Error('there is no such passage'), {
			Fault: {
				faultcode: 'soap:Client',
				faultstring: `there is no passage ${number}`,
				detail,
				statusCode: 500
			}
		});
	}
});
const servicesWith = (detail: object) => ({ TollLedger: { TollLedger11: serviceWith(detail) } });
const typed = { $xml: '<t:PassageFault xmlns:t="urn:reedmere:tolls:types"><t:field>number</t:field></t:PassageFault>' };

const open: Server[] = [];
async function started(prepare: (server: Server) => void): Promise<string> {
	const server = createServer((_, response) => response.writeHead(404).end());
	open.push(server);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	prepare(server);
	return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
afterAll(() => Promise.all(open.map((server) => new Promise((resolve) => server.close(resolve)))));

const quote = { lock: 'Mill Lock', craft: { name: 'Pike & Co', kind: 'barge', length: 12.5 }, season: 'summer' };
const call = (operation: string, values: object, more: object = {}) => ({
	send: 'POST /ledger',
	body: { soap: { operation: `TollLedger.${operation}`, version: '1.1', values } },
	checks: [{ fault: 'code', present: false }, { contract: true }],
	...more
});

describe.each([
	[
		'one library',
		(server: Server) => void listen(server, { path: '/ledger', services: servicesWith(typed) as never, xml: whole }),
		undefined
	],
	[
		'another one',
		(server: Server) => void strong.soap.listen(server, '/ledger', servicesWith({ field: 'number' }), whole),
		/SOAP 1\.1 has no statusCode; .* does not declare \(Client: there is no passage LP-00000\), with field in its detail/
	]
])('against a server of %s', (_, prepare, undeclared) => {
	let base = '';
	beforeAll(async () => (base = await started(prepare)));
	const run = (list: object[]) => runAll({ connections: { one: { base } }, collections: { c: steps(list) }, files });

	test('calls are understood, and answers fit the contract', async () => {
		const results = await run([
			call('QuoteToll', quote),
			call('FetchPassage', { number: 'LP-40118' }, { keep: { pence: 'number(//passage/pence)' } })
		]);
		expect(results.map(({ outcome, checks }) => [outcome, checks.filter((one) => !one.holds)])).toEqual([
			['passed', []],
			['passed', []]
		]);
		expect(results[1]!.kept).toEqual({ pence: 875 });
	});
	test('a fault that is expected is a test as any other, and its detail is held against the schema', async () => {
		const checks = [
			{ status: 500 },
			{ fault: 'code', equals: 'Client' },
			{ fault: 'reason', contains: 'LP-00000' },
			{ fault: 'detail', contains: 'number' },
			{ contract: true }
		];
		const [result] = await run([call('FetchPassage', { number: 'LP-00000' }, { checks })]);
		const odd = result!.checks.filter((one) => !one.holds);
		expect(odd.map(({ subject }) => subject)).toEqual(undeclared ? ['contract'] : []);
		if (undeclared) expect(odd[0]!.received).toMatch(undeclared);
	});
});

describe('against the toll ledger', () => {
	let base = '';
	let app: Awaited<ReturnType<typeof createTolls>>;
	beforeAll(async () => {
		app = await createTolls(createLedger());
		base = await app.listen({ host: '127.0.0.1', port: 0 });
	});
	afterAll(() => app.close());
	const run = (list: object[], more: object = {}) =>
		runAll({ connections: { one: { base } }, collections: { c: steps(list) }, files, ...more });
	const record = {
		lock: 'Mill Lock',
		craft: { name: 'Pike', kind: 'barge', length: 12.5 },
		direction: 'up',
		passedAt: '2027-05-14T07:40:00Z',
		payment: { '@xsi:type': 'CashPayment', pence: 875 }
	};

	test('SOAP 1.2 has its own envelope, media type and action', async () => {
		const [result] = await run([
			call('QuoteToll', quote, {
				send: 'POST /ledger12',
				body: { soap: { operation: 'TollLedger.QuoteToll', version: '1.2', values: quote, addressing: true } }
			})
		]);
		expect(result!.outcome).toBe('passed');
		const { requestHeaders, requestBody } = result!.exchanges[0]!;
		const sent = new TextDecoder().decode(requestBody);
		expect(Object.fromEntries(requestHeaders)['Content-Type']).toBe(
			'application/soap+xml; charset=utf-8; action="urn:reedmere:tolls/QuoteToll"'
		);
		expect(Object.fromEntries(requestHeaders)).not.toHaveProperty('SOAPAction');
		expect(sent).toContain('http://www.w3.org/2003/05/soap-envelope');
		expect(sent).toMatch(
			/<wsa:Action xmlns:wsa="http:\/\/www.w3.org\/2005\/08\/addressing">urn:reedmere:tolls\/QuoteToll</
		);
		expect(sent).toMatch(new RegExp(`<wsa:To [^>]*>${base}/ledger12</wsa:To>`));
	});
	test('SOAP 1.1 tells its action in SOAPAction, and a header of the step goes over it', async () => {
		const [one, two] = await run([
			call('QuoteToll', quote),
			call('QuoteToll', quote, { headers: { SOAPAction: '"urn:reedmere:tolls/FetchPassage"' } })
		]);
		const actionOf = (result: typeof one) =>
			result!.exchanges[0]!.requestHeaders.filter(([name]) => name === 'SOAPAction').map(([, value]) => value);
		expect(actionOf(one)).toEqual(['"urn:reedmere:tolls/QuoteToll"']);
		expect(actionOf(two)).toEqual(['"urn:reedmere:tolls/FetchPassage"']);
	});
	test.each([
		['a digest with nonce and time', { passwordType: 'digest', timestamp: '5 min' }, 'passed'],
		['a password as text', { passwordType: 'text' }, 'passed'],
		['a wrong password', { password: 'wrong-one' }, 'FailedAuthentication'],
		['a user that nobody knows', { user: 'casey' }, 'FailedAuthentication']
	])('%s', async (_, more, expected) => {
		const credentials = { clerk: { kind: 'ws-security', user: 'avery', password: 'lock-gate-9', ...more } };
		const list = [
			call('RecordPassage', record, { credential: 'clerk', keep: { code: { from: '//faultcode', default: '' } } })
		];
		const [result] = await run(list, { credentials, wrong: true });
		expect(result!.outcome === 'passed' ? 'passed' : String(result!.kept.code).replace(/^.*:/, '')).toBe(expected);
	});
	test('a gateway before it wants another credential as well', async () => {
		const gate = await started((server) =>
			server.removeAllListeners('request').on('request', (request, response) => {
				if (request.headers.authorization !== `Basic ${Buffer.from('gate:keeper-7').toString('base64')}`)
					return response.writeHead(401).end();
				const chunks: Buffer[] = [];
				request.on('data', (chunk: Buffer) => chunks.push(chunk));
				request.on('end', () => {
					const headers = { 'content-type': 'text/xml', soapaction: String(request.headers.soapaction) };
					void fetch(`${base}/ledger`, { method: 'POST', headers, body: Buffer.concat(chunks) }).then(async (reply) =>
						response.writeHead(reply.status, { 'content-type': 'text/xml' }).end(await reply.text())
					);
				});
			})
		);
		const credentials = {
			gate: { kind: 'basic', user: 'gate', password: 'keeper-7' },
			clerk: { kind: 'ws-security', user: 'avery', password: 'lock-gate-9', beside: 'gate' },
			loop: { kind: 'ws-security', timestamp: '1 min', beside: 'loop' }
		};
		const list = (credential: string) => [call('RecordPassage', record, { credential })];
		const [result] = await runAll({
			wrong: true,
			...{ connections: { one: { base: gate } }, collections: { c: steps(list('clerk')) }, files, credentials }
		});
		expect(result!.outcome).toBe('passed');
		const [odd] = await run(list('loop'), { credentials, wrong: true });
		expect(odd!.error?.message).toContain('it is used beside itself: loop → loop');
	});
	test('an attachment stands beside the envelope, which is read and held against the contract', async () => {
		const checks = [
			{ contract: true },
			{ body: '//name', equals: 'LP-40118.txt' },
			{ header: 'Content-Type', matches: '^multipart/related' }
		];
		const [result] = await run([call('FetchReceipt', { number: 'LP-40118' }, { checks })]);
		expect(result!.checks.filter((one) => !one.holds)).toEqual([]);
	});
	test('an envelope that was written by hand goes out as it is, also a wrong one', async () => {
		const envelope =
			'<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><t:FetchPassage xmlns:t="urn:reedmere:tolls:types"><t:number>{$env.number}</t:number></t:FetchPassage></e:Body></e:Envelope>';
		const list = [
			{
				send: 'POST /ledger',
				body: { soap: { operation: 'TollLedger.FetchPassage', version: '1.1', envelope } },
				checks: [{ fault: 'reason', equals: 'there is no passage R & D' }]
			}
		];
		const [result] = await run(list, { environments: { e: { variables: { number: 'R & D' } } }, environment: 'e' });
		expect(new TextDecoder().decode(result!.exchanges[0]!.requestBody)).toContain('<t:number>R &amp; D</t:number>');
		expect(result!.checks.filter((one) => !one.holds)).toEqual([]);
	});
	test.each([
		['an operation that there is not', { operation: 'TollLedger.Quote' }, /there is no operation "TollLedger.Quote"/],
		[
			'a version that there is not',
			{ operation: 'TollDesk.CountPassages', version: '1.2' },
			/there is one of SOAP 1.1/
		],
		[
			'a value that is not known',
			{ operation: 'TollLedger.FetchPassage', values: { numbr: 1 } },
			/there is no element numbr here: did you mean "number"/
		]
	])('%s is said before anything is sent', async (_, soap, expected) => {
		const wrong = {
			connections: { one: { base } },
			collections: { c: steps([{ send: 'POST /ledger', body: { soap } }]) },
			files
		};
		await expect(runAll(wrong)).rejects.toThrow(expected);
		const [result] = await runAll({ ...wrong, wrong: true });
		expect(result!.error?.message).toMatch(expected);
		expect(result!.exchanges).toEqual([]);
	});
});

describe('what comes back', () => {
	const envelope = (body: string, version = 'http://schemas.xmlsoap.org/soap/envelope/') =>
		`<e:Envelope xmlns:e="${version}"><e:Body>${body}</e:Body></e:Envelope>`;
	const good =
		'<t:QuoteTollResponse xmlns:t="urn:reedmere:tolls:types"><t:pence>1</t:pence><t:line><t:text>a</t:text><t:pence>1</t:pence></t:line></t:QuoteTollResponse>';
	const fault = '<e:Fault><faultcode>e:Server</faultcode><faultstring>off</faultstring></e:Fault>';
	test.each<[string, number, string, string | Buffer, RegExp | undefined]>([
		['as it should be', 200, 'text/xml', envelope(good), undefined],
		['in UTF-16, as its mark says', 200, 'text/xml', Buffer.from(`\ufeff${envelope(good)}`, 'utf16le'), undefined],
		['not XML', 502, 'text/html', 'Bad gateway', /not well-formed XML/],
		['nothing', 200, 'text/xml', '', /no body/],
		[
			'of SOAP 1.2',
			200,
			'application/soap+xml',
			envelope(good, 'http://www.w3.org/2003/05/soap-envelope'),
			/SOAP 1.1 was agreed on.*SOAP 1.2/
		],
		[
			'under another media type',
			200,
			'application/json',
			envelope(good),
			/Content-Type is application\/json, and SOAP 1.1 is sent as text\/xml/
		],
		[
			'a fault that the operation declares',
			500,
			'text/xml',
			envelope(
				fault.replace(
					'</e:Fault>',
					'<detail><t:PassageFault xmlns:t="urn:reedmere:tolls:types"><t:field>x</t:field></t:PassageFault></detail></e:Fault>'
				)
			),
			undefined
		],
		[
			'a fault that it does not declare',
			500,
			'text/xml',
			envelope(fault),
			/a fault that QuoteToll does not declare \(Server: off\); declared: PassageFault/
		],
		['a fault under 200', 200, 'text/xml', envelope(fault), /a fault is sent with status 500, and this is 200/],
		[
			'an answer under 500',
			500,
			'text/xml',
			envelope(good),
			/status 500 goes with a fault, and the envelope holds none/
		],
		[
			'a fault of 1.2 in an envelope of 1.1',
			500,
			'text/xml',
			envelope(
				'<e:Fault><e:Code><e:Value>e:Receiver</e:Value></e:Code><e:Reason><e:Text xml:lang="en">off</e:Text></e:Reason></e:Fault>'
			),
			/a fault of SOAP 1\.1 has no Code in the namespace .*the fault has no faultcode; .*the fault has no faultstring/
		],
		[
			'a fault whose parts are in another order',
			500,
			'text/xml',
			envelope('<e:Fault><faultstring>off</faultstring><faultcode>e:Server</faultcode></e:Fault>'),
			/in this order: faultcode, faultstring/
		],
		[
			'a fault with a detail that does not fit',
			500,
			'text/xml',
			envelope(
				fault.replace(
					'</e:Fault>',
					'<detail><t:PassageFault xmlns:t="urn:reedmere:tolls:types"><t:limit>x</t:limit></t:PassageFault></detail></e:Fault>'
				)
			),
			/line 1, PassageFault\/limit: /
		],
		['a value of another type', 200, 'text/xml', envelope(good.replace('>1<', '>one<')), /'one' is not a valid value/],
		[
			'the answer of another operation',
			200,
			'text/xml',
			envelope(good.replaceAll('QuoteTollResponse', 'QuoteResponse')),
			/holds QuoteResponse where QuoteTollResponse is wanted/
		],
		[
			'multipart without its root part',
			200,
			'multipart/related; boundary=b; start="<r>"',
			'--b\r\nContent-ID: <x>\r\n\r\n<a/>\r\n--b--',
			/no root part/
		]
	])('%s', async (_, status, type, body, expected) => {
		const server = createServer((_request, response) => response.writeHead(status, { 'content-type': type }).end(body));
		open.push(server);
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		const list = [call('QuoteToll', quote, { checks: [{ contract: true }] })];
		const [result] = await runAll({ connections: { one: { base } }, collections: { c: steps(list) }, files });
		const [check] = result!.checks;
		if (expected) expect(check!.error ?? check!.received).toMatch(expected);
		expect(check!.holds).toBe(expected === undefined);
	});
});

describe('bytes beside the envelope', () => {
	// a service that takes a scan, as its binding says
	const yard = Object.fromEntries(
		['yard.wsdl', 'parts/ports.wsdl', 'parts/types.xsd', 'parts/shared.xsd'].map((path) => [
			`definitions/yard/${path}`,
			readFileSync(new URL(`definitions/${path}`, import.meta.url), 'utf8')
		])
	);
	const scan = Buffer.from([0, 1, 2, 255, 13, 10, 45, 45]);
	/** What arrived at a plain server. */
	async function sent(soap: object): Promise<{ type: string; body: Buffer }> {
		let seen: { type: string; body: Buffer } | undefined;
		const server = createServer((incoming, response) => {
			const chunks: Buffer[] = [];
			incoming.on('data', (chunk: Buffer) => chunks.push(chunk));
			incoming.on('end', () => {
				seen = { type: incoming.headers['content-type'] ?? '', body: Buffer.concat(chunks) };
				response.end();
			});
		});
		open.push(server);
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		await runAll({
			connections: { one: { base } },
			collections: { c: steps([{ send: 'POST /', body: { soap } }]) },
			files: { ...yard, 'files/scan.pdf': scan }
		});
		return seen!;
	}
	const everything = {
		...{ colour: 'reed green', coats: 1, left: 1, shape: { '@xsi:type': 'Round', '@radius': 1 }, craft: { name: 'x' } },
		...{ side: 1, days: 'Mon Tue', any: null, licence: 'AA-123', price: { '@currency': 'EUR', '#text': 1 } },
		...{ log: { in: '09:00:00' }, shared: { berth: 'A-01' }, bytes: '{$base64File("files/scan.pdf")}' }
	};
	test('contents in Base64 travel as parts, byte for byte', async () => {
		const { type, body } = await sent({ operation: 'Yard.Everything', version: '1.2', values: everything, mtom: true });
		expect(type).toMatch(
			/^multipart\/related; type="application\/xop\+xml"; start="<envelope>"; start-info="application\/soap\+xml"; boundary="[^"]+"; action="urn:everything"$/
		);
		const text = body.toString('latin1');
		const id =
			/<bytes><xop:Include xmlns:xop="http:\/\/www.w3.org\/2004\/08\/xop\/include" href="cid:([^"]+)"\/><\/bytes>/.exec(
				text
			)?.[1];
		expect(text).toContain(`Content-ID: <${id}>\r\n\r\n${scan.toString('latin1')}\r\n--`);
		expect(text).toContain(
			'Content-Type: application/xop+xml; charset=utf-8; type="application/soap+xml"\r\nContent-ID: <envelope>'
		);
	});
	test('files are attached under their ids', async () => {
		const { type, body } = await sent({
			operation: 'Yard.Scan',
			values: { name: 'x' },
			attachments: [{ file: 'files/scan.pdf', id: 'scan' }]
		});
		expect(type).toMatch(/^multipart\/related; type="text\/xml"; start="<envelope>"; boundary="[^"]+"$/);
		expect(body.toString('latin1')).toContain(
			`Content-Type: application/pdf\r\nContent-Transfer-Encoding: binary\r\nContent-ID: <scan>\r\n\r\n${scan.toString('latin1')}\r\n--`
		);
	});
	test('the toll ledger takes an envelope that comes in parts', async () => {
		const app = await createTolls(createLedger());
		const base = await app.listen({ host: '127.0.0.1', port: 0 });
		const list = [
			call('QuoteToll', quote, {
				body: {
					soap: {
						operation: 'TollLedger.QuoteToll',
						version: '1.1',
						values: quote,
						mtom: true,
						attachments: [{ file: 'files/scan.pdf' }]
					}
				}
			})
		];
		const [result] = await runAll({
			connections: { one: { base } },
			collections: { c: steps(list) },
			files: { ...files, 'files/scan.pdf': scan }
		});
		expect(result!.outcome).toBe('passed');
		await app.close();
	});
	test.each([
		['a file that is not there', { attachments: [{ file: 'files/gone.pdf' }] }, /no file files\/gone.pdf/],
		['an attachment that is none', { attachments: ['scan'] }, /a file is wanted/],
		['a flag that is none', { mtom: 'yes' }, /true or false is wanted/],
		['a type that would be two header fields', { attachments: [{ file: 'a', type: 'a/b\r\nX: y' }] }, /in one line/]
	])('%s is said before anything is sent', async (_, more, expected) => {
		const soap = { operation: 'TollLedger.QuoteToll', version: '1.1', values: quote, ...more };
		const given = {
			connections: { one: { base: 'http://127.0.0.1:9' } },
			collections: { c: steps([{ send: 'POST /', body: { soap } }]) },
			files
		};
		await expect(runAll(given)).rejects.toThrow(expected);
	});
});

test('a definition is fetched over a connection; its credential goes to its host alone', async () => {
	const seen: string[] = [];
	const other = await started((server) =>
		server.removeAllListeners('request').on('request', ({ url, headers }, response) => {
			seen.push(`other ${url} ${headers.authorization ?? 'nobody'} ${headers['x-key'] ?? 'no key'}`);
			response.end(schema);
		})
	);
	const base = await started((server) =>
		server.removeAllListeners('request').on('request', ({ url, headers }, response) => {
			seen.push(`own ${url} ${headers.authorization ?? 'nobody'} ${headers['x-key'] ?? 'no key'}`);
			if (!headers.authorization) return response.writeHead(401).end();
			response.end(definition.replace('schemaLocation="tolls.xsd"', `schemaLocation="${other}/tolls.xsd"`));
		})
	);
	const given = {
		connections: { one: { base, headers: { 'X-Key': 'k-1' }, credential: 'clerk' }, plain: { base } },
		credentials: { clerk: { kind: 'basic', user: 'avery', password: '{$secret.word}' } },
		environments: { e: { secrets: ['word'] } },
		environment: 'e',
		secrets: { word: 'lock-gate-9' }
	};
	const context = await contextOf(given);
	// what lies elsewhere is asked for only when somebody says so
	const careful = await fetchDefinition(`${base}/ledger?wsdl`, 'definitions/tolls', 'one', context);
	expect(careful.missing).toEqual([
		{ address: `${other}/tolls.xsd`, detail: 'it lies at another host, which was not asked' }
	]);
	expect(seen.splice(0)).toHaveLength(1);
	const fetched = await fetchDefinition(`${base}/ledger?wsdl`, 'definitions/tolls', 'one', context, true);
	expect(fetched.files.map(({ path }) => path)).toEqual([
		'definitions/tolls/ledger.wsdl',
		'definitions/tolls/tolls.xsd'
	]);
	expect(seen).toEqual([
		`own /ledger?wsdl Basic ${Buffer.from('avery:lock-gate-9').toString('base64')} k-1`,
		'other /tolls.xsd nobody no key'
	]);
	await expect(fetchDefinition(`${base}/ledger?wsdl`, 'definitions/tolls', 'plain', context)).rejects.toThrow(
		/answers 401/
	);
	context.engine.close();
});
