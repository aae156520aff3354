import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { schema, wsdl } from '../../standins/tolls/definition.ts';
import { createTolls } from '../../standins/tolls/index.ts';
import { createLedger, tollOf } from '../../standins/tolls/ledger.ts';

let app: Awaited<ReturnType<typeof createTolls>>;
let base = '';
const ledger = createLedger();
beforeAll(async () => {
	app = await createTolls(ledger);
	base = await app.listen({ host: '127.0.0.1', port: 0 });
});
afterAll(() => app.close());

const S11 = 'http://schemas.xmlsoap.org/soap/envelope/';
const S12 = 'http://www.w3.org/2003/05/soap-envelope';
async function post(path: string, action: string, inside: string, version = S11) {
	const reply = await fetch(base + path, {
		method: 'POST',
		headers: { 'content-type': 'text/xml', soapaction: `"urn:reedmere:tolls/${action}"` },
		body: `<e:Envelope xmlns:e="${version}" xmlns:t="urn:reedmere:tolls:types" xmlns:l="urn:reedmere:tolls"><e:Body>${inside}</e:Body></e:Envelope>`
	});
	return { status: reply.status, type: reply.headers.get('content-type')!, text: await reply.text() };
}

describe('the toll ledger', () => {
	test('gives its definition with the address where it listens, and the schema beside it', async () => {
		expect(await (await fetch(`${base}/ledger?wsdl`)).text()).toBe(wsdl(base));
		expect(await (await fetch(`${base}/tolls.xsd`)).text()).toBe(schema);
		const without = await fetch(`${base}/ledger`);
		expect([without.status, without.headers.get('allow')]).toEqual([405, 'POST']);
	});
	test('lists, counts and finds passages, in both versions and in RPC style', async () => {
		const all = await post('/ledger12', 'ListPassages', '<t:ListPassages/>', S12);
		expect(all.type).toMatch(/^application\/soap\+xml/);
		expect(all.text.match(/<t:passage>/g)).toHaveLength(2);
		const some = await post('/ledger', 'ListPassages', '<t:ListPassages><t:lock>Mill Lock</t:lock></t:ListPassages>');
		expect(some.text.match(/<t:passage>/g)).toHaveLength(1);
		const call = '<l:CountPassages><lock>Mill Lock</lock><kind>barge</kind></l:CountPassages>';
		expect((await post('/desk', 'CountPassages', call)).text).toContain('<passages>1</passages>');
	});
	test.each([
		['/ledger', S11, 500, /<faultcode>soap:Client<\/faultcode>.*<t:field>number</],
		['/ledger12', S12, 400, /<soap:Value>soap:Sender<.*<soap:Value>l:BadPassage<.*xml:lang="en"/]
	])('says what is wrong as a fault at %s', async (path, version, status, said) => {
		const call = '<t:FetchPassage><t:number>LP-00000</t:number></t:FetchPassage>';
		const reply = await post(path, 'FetchPassage', call, version);
		expect(reply.status).toBe(status);
		expect(reply.text).toMatch(said);
	});
	test('refuses an envelope of the other version', async () => {
		expect((await post('/ledger', 'ListPassages', '<t:ListPassages/>', S12)).text).toContain('soap:VersionMismatch');
	});
	test('forgets on request', async () => {
		const before = ledger.passages.size;
		ledger.record({ ...[...ledger.passages.values()][0]! });
		expect(ledger.passages.size).toBe(before + 1);
		expect((await fetch(`${base}/reset`, { method: 'POST' })).status).toBe(204);
		expect(ledger.passages.size).toBe(before);
	});
	test('takes a quarter less in winter, and reductions of the whole', () => {
		const craft = { name: 'Pike', kind: 'barge', length: '10' };
		expect(tollOf(craft, 'summer', []).pence).toBe(700);
		expect(tollOf(craft, 'winter', [10]).pence).toBe(700 - 175 - 70);
		expect(tollOf(craft, 'winter', [50, 50]).pence).toBe(0);
	});
});
