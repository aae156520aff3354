import { describe, expect, test } from 'vitest';
import { loadProject } from '../project/index.ts';
import { utf8 } from '../values/index.ts';
import { planDefinitions } from './index.ts';

/** An OpenAPI document with an operation for each call. */
const openapi = (title: string, ...calls: string[]): string => {
	const paths: Record<string, object> = {};
	for (const call of calls) {
		const [method, path, operationId] = call.split(' ');
		paths[path!] = {
			...paths[path!],
			[method!.toLowerCase()]: {
				...(operationId ? { operationId } : {}),
				responses: { 200: { description: 'ok' } }
			}
		};
	}
	return JSON.stringify({ openapi: '3.0.3', info: { title, version: '1' }, paths });
};
const wsdl = (service: string): string => `<definitions xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:t="urn:t"
	xmlns:soap="http://schemas.xmlsoap.org/wsdl/soap/" targetNamespace="urn:t">
	<message name="M"/>
	<portType name="P"><operation name="ring"><input message="t:M"/></operation></portType>
	<binding name="B" type="t:P"><soap:binding transport="http://schemas.xmlsoap.org/soap/http"/>
		<operation name="ring"><soap:operation soapAction=""/><input><soap:body use="literal"/></input></operation></binding>
	<service name="${service}"><port name="p" binding="t:B"><soap:address location="http://127.0.0.1:1/ring"/></port></service>
</definitions>`;

/** Plans the import of one file into a project that has some files. */
function planned(path: string, text: string, files: Record<string, string>, more: object = {}) {
	const all = { 'heron.yaml': 'heron: 1\n', ...files };
	const readFile = (wanted: string) =>
		Object.hasOwn(all, wanted) ? utf8((all as Record<string, string>)[wanted]!) : undefined;
	const documents = Object.entries(all)
		.filter(([one]) => one.endsWith('.yaml'))
		.map(([one, content]) => ({ path: one, text: content }));
	const { workspace } = loadProject(documents, new Set(Object.keys(all)), readFile);
	return planDefinitions({
		...{ name: path.replace(/^.*\/|\.\w+$/g, ''), unnamed: true, connection: '', workspace, readFile },
		valueOf: () => undefined,
		files: [{ path, bytes: utf8(text) }],
		...more
	});
}

const LANTERNS = openapi('Lantern store', 'GET /lanterns', 'POST /lanterns/{id}', 'GET /health');

describe('what a definition is called when nobody chose a name', () => {
	test.each<[string, string, string, Record<string, string>, string]>([
		['by its file', 'lamps.json', LANTERNS, {}, 'lamps'],
		['by its title, where the file is called as all are', 'openapi.json', LANTERNS, {}, 'lantern-store'],
		['by its service', 'service.wsdl', wsdl('BellRinging'), {}, 'bell-ringing'],
		[
			'as it is called already, where it is a newer version',
			'openapi.json',
			openapi('Lanterns and lamps', 'GET /lanterns', 'GET /lamps'),
			{ 'definitions/openapi.json': LANTERNS },
			'openapi'
		],
		[
			'as it is called already, where its operations moved and kept their ids',
			'openapi.json',
			openapi('Lanterns', 'GET /v2/lanterns listLanterns'),
			{ 'definitions/openapi.json': openapi('Lanterns', 'GET /v1/lanterns listLanterns') },
			'openapi'
		],
		[
			'by its title, where another service is called as its file is',
			'lamps.json',
			openapi('Rope walk', 'GET /ropes', 'POST /ropes', 'GET /health'),
			{ 'definitions/lamps.json': LANTERNS },
			'rope-walk'
		],
		[
			'as it is called already, where its title is the same, though all operations are others',
			'lamps.json',
			openapi('Lantern store', 'GET /lamps'),
			{ 'definitions/lamps.json': LANTERNS },
			'lamps'
		],
		[
			'with a number, where another service has its title too',
			'openapi.json',
			openapi('Lantern store', 'GET /ropes'),
			{ 'definitions/lantern-store.json': LANTERNS },
			'lantern-store-2'
		],
		[
			'by its title once more, where that was its name before',
			'openapi.json',
			LANTERNS,
			{ 'definitions/lantern-store.json': LANTERNS },
			'lantern-store'
		],
		[
			'by its file, where its title holds no letter that a name can hold',
			'openapi.json',
			openapi('灯', 'GET /'),
			{},
			'openapi'
		],
		[
			'by its title in plain letters, as far as it is short',
			'swagger.json',
			openapi('Öffentliche Schnittstelle der Schleusen und Wehre', 'GET /'),
			{},
			'offentliche-schnittstelle-der-schleusen'
		]
	])('%s', (_, path, text, files, name) => {
		const [plan] = planned(path, text, files);
		expect(plan!.name).toBe(name);
		expect(plan!.file).toMatch(new RegExp(`^definitions/${name}[./]`));
	});
	test('one of several keeps the name of its file', () => {
		const files = [
			{ path: 'api.json', bytes: utf8(LANTERNS) },
			{ path: 'openapi.json', bytes: utf8(openapi('Rope walk', 'GET /ropes')) }
		];
		expect(planned('both', '', {}, { files }).map(({ name }) => name)).toEqual(['api', 'openapi']);
	});
	test('what comes from the same address is the same, however much it has changed', () => {
		const address = 'http://127.0.0.1:1/openapi.json';
		const there = {
			'definitions/openapi/openapi.json': LANTERNS,
			'definitions/openapi/source.json': JSON.stringify({ address })
		};
		const text = openapi('Rope walk', 'GET /ropes');
		const file = 'definitions/openapi/openapi.json';
		expect(planned(file, text, there, { name: 'openapi', address })[0]!.name).toBe('openapi');
		const elsewhere = planned(file, text, there, { name: 'openapi', address: 'http://127.0.0.1:2/openapi.json' });
		expect(elsewhere[0]!.file).toBe('definitions/rope-walk/openapi.json');
		expect(elsewhere[0]!.files.map(({ path }) => path)).toEqual([
			'definitions/rope-walk/openapi.json',
			'definitions/rope-walk/source.json'
		]);
	});
	test('what another service is called is said, and what takes its place when that was asked for', () => {
		const there = { 'definitions/openapi.json': LANTERNS };
		const text = openapi('Rope walk', 'GET /ropes');
		const said = (more: object) =>
			planned('openapi.json', text, there, more)[0]!.problems.map(({ message }) => message);
		expect(said({})).toContain(
			'definitions/openapi.json is another service (Lantern store): this one is called rope-walk'
		);
		expect(said({ unnamed: false })).toContain(
			'definitions/openapi.json has been another service so far (Lantern store): this one takes its name, and the calls of both are in one collection'
		);
	});
});
