import { planDefinitions } from '#core/definitions/index.ts';
import { createWorkspace, loadDocument } from '#core/project/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { describe, expect, test } from 'vitest';
import { stringify } from 'yaml';
import { runAll } from '../support/project.ts';

// What an import makes of a WSDL: which versions, which ways, which host.
const binding = (name: string, way: string, inside: string) =>
	`<w:binding name="${name}" type="t:Gauges">${way}<w:operation name="Level">${inside}</w:operation></w:binding>`;
const soap = (prefix: string) =>
	`<${prefix}:operation soapAction="urn:level"/><w:input><${prefix}:body use="literal"/></w:input><w:output><${prefix}:body use="literal"/></w:output>`;
const HTTP_OUT = '<w:output><m:mimeXml part="answer"/></w:output>';
const BINDINGS: Record<string, string> = {
	Soap: binding('Soap', '<s:binding style="document" transport="http://schemas.xmlsoap.org/soap/http"/>', soap('s')),
	Soap12: binding(
		'Soap12',
		'<s12:binding style="document" transport="http://schemas.xmlsoap.org/soap/http"/>',
		soap('s12')
	),
	Get: binding(
		'Get',
		'<h:binding verb="GET"/>',
		`<h:operation location="/level"/><w:input><h:urlEncoded/></w:input>${HTTP_OUT}`
	).replace('t:Gauges', 't:Plain'),
	Path: binding(
		'Path',
		'<h:binding verb="GET"/>',
		`<h:operation location="/days/(day)/(side)"/><w:input><h:urlReplacement/></w:input>${HTTP_OUT}`
	).replace('t:Gauges', 't:Plain'),
	Form: binding(
		'Form',
		'<h:binding verb="POST"/>',
		`<h:operation location="/level"/><w:input><m:content type="application/x-www-form-urlencoded"/></w:input>${HTTP_OUT}`
	).replace('t:Gauges', 't:Plain')
};
const wsdl = (base: string, ports = ['Soap', 'Soap12', 'Get', 'Path', 'Form']) => `<?xml version="1.0"?>
<w:definitions xmlns:w="http://schemas.xmlsoap.org/wsdl/" xmlns:t="urn:gauges" xmlns:x="http://www.w3.org/2001/XMLSchema"
 xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:s12="http://schemas.xmlsoap.org/wsdl/soap12/"
 xmlns:h="http://schemas.xmlsoap.org/wsdl/http/" xmlns:m="http://schemas.xmlsoap.org/wsdl/mime/" targetNamespace="urn:gauges">
<w:types><x:schema targetNamespace="urn:gauges" elementFormDefault="qualified">
<x:simpleType name="Side"><x:restriction base="x:string"><x:enumeration value="upper"/><x:enumeration value="lower"/></x:restriction></x:simpleType>
<x:element name="Level"><x:complexType><x:sequence><x:element name="side" type="t:Side"/><x:element name="day" type="x:int"/></x:sequence></x:complexType></x:element>
<x:element name="LevelAnswer"><x:complexType><x:sequence><x:element name="metres" type="x:decimal"/></x:sequence></x:complexType></x:element>
</x:schema></w:types>
<w:message name="In"><w:part name="parameters" element="t:Level"/></w:message>
<w:message name="Out"><w:part name="answer" element="t:LevelAnswer"/></w:message>
<w:message name="PlainIn"><w:part name="side" type="t:Side"/><w:part name="day" type="x:int"/></w:message>
<w:portType name="Gauges"><w:operation name="Level"><w:input message="t:In"/><w:output message="t:Out"/></w:operation></w:portType>
<w:portType name="Plain"><w:operation name="Level"><w:documentation>The level of a day.</w:documentation><w:input message="t:PlainIn"/><w:output message="t:Out"/></w:operation></w:portType>
${ports.map((port) => BINDINGS[port]).join('')}
<w:service name="GaugeBook">${ports
	.map((port) => {
		const prefix = { Soap: 's', Soap12: 's12' }[port] ?? 'h';
		return `<w:port name="${port}" binding="t:${port}"><${prefix}:address location="${base}/gauges"/></w:port>`;
	})
	.join('')}</w:service>
</w:definitions>`;

const plan = (
	text: string,
	more: { address?: string; choose?: string[] } = {},
	documents: Record<string, object> = {}
) => {
	const loaded = Object.entries(documents).map(([path, value]) =>
		loadDocument(path, stringify({ heron: 1, ...value }))!
	);
	const [made] = planDefinitions({
		name: 'gauges',
		files: [{ path: 'gauges.wsdl', bytes: Buffer.from(text) }],
		workspace: createWorkspace(loaded, new Set()),
		readFile: () => undefined,
		valueOf: (path) => documents[path] as JsonObject | undefined,
		connection: '',
		...more
	});
	return made!;
};
const written = (made: ReturnType<typeof plan>, path: string) =>
	made.writes.find((one) => one.path === path)?.value as JsonObject & {
		scenarios: { id: string; steps: JsonObject[] }[];
	};
const PLAIN = ['Get', 'Path', 'Form'];
const ALL = ['GET GaugeBook.Level', 'GET GaugeBook.Level 2', 'POST GaugeBook.Level'];
const BASE = 'http://gauges.reedmere.example';

describe('what can be made of a WSDL', () => {
	test('each operation in each version and way is offered; the first version is taken', () => {
		const made = plan(wsdl(BASE));
		expect(made.offers.map(({ key, chosen }) => [key, chosen])).toEqual([
			['GaugeBook.Level', true],
			['GaugeBook.Level 1.2', false],
			['GET GaugeBook.Level', false],
			['GET GaugeBook.Level 2', false],
			['POST GaugeBook.Level', false]
		]);
		expect(made.offers[1]!.tags).toEqual(['GaugeBook', 'SOAP 1.2']);
		expect(made.added).toEqual(['level']);
	});
	test('a binding in a namespace that means nothing to anybody is none of SOAP', () => {
		const made = plan(wsdl(BASE).replace('http://schemas.xmlsoap.org/wsdl/soap12/', 'constructor'));
		expect(made.offers.map(({ key }) => key)).toEqual(['GaugeBook.Level', ...ALL]);
	});
	test('of services that share a binding and an address each call is made once', () => {
		const both = wsdl(BASE, ['Soap']).replace(
			/<w:service[\s\S]*<\/w:service>/,
			(service) => service + service.replace('GaugeBook', 'GaugeDesk')
		);
		const made = plan(both);
		expect(made.offers.map(({ key, chosen, sameAs }) => [key, chosen, sameAs])).toEqual([
			['GaugeBook.Level', true, undefined],
			['GaugeDesk.Level', false, 'GaugeBook.Level']
		]);
		expect(made.added).toEqual(['level']);
		expect(plan(both, { choose: ['GaugeDesk.Level'] }).added).toEqual(['level']);
		const apart = both.replace(/(GaugeDesk[\s\S]*location="[^"]*)/, '$1/desk');
		expect(plan(apart).offers.map(({ chosen }) => chosen)).toEqual([true, true]);
	});
	test('a call that demands nothing is made with what it may take', () => {
		const loose = wsdl(BASE, ['Soap']).replaceAll(/<x:element (name="(?:side|day)")/g, '<x:element minOccurs="0" $1');
		const [scenario] = written(plan(loose), 'collections/gauges.yaml').scenarios;
		expect(scenario!.steps[0]!.body).toMatchObject({ soap: { values: { side: 'upper', day: 0 } } });
	});
	test('SOAP 1.2 is made where it is chosen, also beside 1.1', () => {
		const made = plan(wsdl(BASE), { choose: ['GaugeBook.Level', 'GaugeBook.Level 1.2'] });
		const { scenarios } = written(made, 'collections/gauges.yaml');
		expect(scenarios.map(({ id }) => id)).toEqual(['level', 'level-soap-1-2']);
		const versions = scenarios.map(({ steps }) => ((steps[0]!.body as JsonObject).soap as JsonObject).version);
		expect(versions).toEqual(['1.1', '1.2']);
	});
	test('an operation that a step calls already is not suggested in its other version', () => {
		const before = written(plan(wsdl(BASE)), 'collections/gauges.yaml');
		const connection = { base: BASE };
		const made = plan(wsdl(BASE), {}, { 'collections/gauges.yaml': before, 'connections/gauges.yaml': connection });
		expect(made.kept).toEqual(['GaugeBook.Level']);
		expect(made.offers.filter(({ chosen }) => chosen)).toEqual([]);
		expect(made.added).toEqual([]);
	});
	test('what is bound to HTTP alone becomes REST steps, with values that fit', () => {
		expect(plan(wsdl(BASE, PLAIN)).added).toEqual(['level-get']);
		const { scenarios } = written(plan(wsdl(BASE, PLAIN), { choose: ALL }), 'collections/gauges.yaml');
		const steps = scenarios.map(({ id, steps: [step] }) => {
			const { send, query, path, body } = step!;
			return { id, send, ...(query ? { query } : {}), ...(path ? { path } : {}), ...(body ? { body } : {}) };
		});
		const same = { side: expect.stringMatching('upper') as string, day: expect.anything() as number };
		expect(steps).toEqual([
			{ id: 'level-get', send: 'GET /gauges/level', query: same },
			{ id: expect.any(String) as string, send: 'GET /gauges/days/{day}/{side}', path: same },
			{ id: 'level-post', send: 'POST /gauges/level', body: { form: same } }
		]);
	});
	test('the service as it was reached, where it names another host; it says so', () => {
		const made = plan(wsdl('http://inside:8080'), { address: `${BASE}/gauges?wsdl` });
		expect(written(made, 'connections/gauges.yaml').base).toBe(BASE);
		expect(written(made, 'collections/gauges.yaml').scenarios[0]!.steps[0]!.send).toBe('POST /gauges');
		expect(made.problems.map(({ message }) => message).join()).toContain('the definition names http://inside:8080');
		const same = plan(wsdl(BASE), { address: `${BASE}/gauges?wsdl` });
		expect(same.problems).toEqual([]);
	});
	test('REST steps reach the service as they stand', async () => {
		const asked: string[] = [];
		const server = http.createServer((request, response) => {
			let body = '';
			request
				.on('data', (data) => (body += String(data)))
				.on('end', () => {
					asked.push(`${request.method} ${request.url} ${body}`.trim());
					response.writeHead(200, { 'content-type': 'text/xml' }).end('<metres>1.5</metres>');
				});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		const made = plan(wsdl(base, PLAIN), { choose: ALL });
		const results = await runAll({
			connections: { gauges: written(made, 'connections/gauges.yaml') },
			collections: { gauges: written(made, 'collections/gauges.yaml') }
		});
		server.close();
		expect(results.map(({ outcome }) => outcome)).toEqual(['passed', 'passed', 'passed']);
		expect(asked).toEqual([
			expect.stringMatching(/^GET \/gauges\/level\?side=upper&day=-?\d+$/),
			expect.stringMatching(/^GET \/gauges\/days\/-?\d+\/upper$/),
			expect.stringMatching(/^POST \/gauges\/level side=upper&day=-?\d+$/)
		]);
	});
});
