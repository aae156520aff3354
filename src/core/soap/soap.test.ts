import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import {
	compareDefinitions,
	createWsdlRegistry,
	fileOfAddress,
	gatherDefinition,
	hideExpressions,
	modelOf,
	parseXml,
	patchEnvelope,
	prettyXml,
	readDefinition,
	readEnvelope,
	readFault,
	resolveLocation,
	sampleValues,
	sameXml,
	simpleProblem,
	withValue,
	writeEnvelope,
	type Definition,
	type SimpleType
} from './index.ts';
import { readRelated, withoutXop } from '../model/related.ts';

const folder = new URL('../../../tests/engine/definitions/', import.meta.url);
const sources = new Map(
	['yard.wsdl', 'parts/ports.wsdl', 'parts/types.xsd', 'parts/shared.xsd'].map((path) => [
		`definitions/yard/${path}`,
		readFileSync(new URL(path, folder), 'utf8')
	])
);
const readWith = (change: Record<string, string | undefined> = {}): Definition =>
	readDefinition('definitions/yard/yard.wsdl', (path) => (path in change ? change[path] : sources.get(path)));
const yard = readWith();
const modelFor = (key: string, version = '1.1') =>
	modelOf(
		yard,
		yard.operations.find((one) => one.key === key && one.version === version)!
	);
const everything = modelFor('Yard.Everything');
const full = sampleValues(everything, 'full').values as Record<string, Json>;
const bodyOf = (text: string) => /<env:Body>\s*([\s\S]*?)\s*<\/env:Body>/.exec(text)?.[1]?.replace(/>\s+</g, '><');

describe('a WSDL', () => {
	test('gives its services, ports and operations, of all styles', () => {
		expect(yard.operations.map(({ key, version, style, use, action }) => [key, version, style, use, action])).toEqual([
			['Yard.Everything', '1.1', 'document', 'literal', 'everything'],
			['Yard.Assign', '1.1', 'document', 'literal', ''],
			['Yard.Tree', '1.1', 'document', 'literal', ''],
			['Yard.Empty', '1.1', 'document', 'literal', ''],
			['Yard.Bare', '1.1', 'document', 'literal', ''],
			['Yard.Scan', '1.1', 'document', 'literal', ''],
			['Yard.Everything', '1.2', 'document', 'literal', 'urn:everything'],
			['Crane.Lift', '1.1', 'rpc', 'literal', 'lift'],
			['OldCrane.Lift', '1.1', 'rpc', 'encoded', 'lift']
		]);
		expect(yard.missing).toEqual([]);
	});
	test('lists what cannot be used, with its place, and gives the rest', () => {
		expect(yard.problems.map(({ file, message }) => `${file}: ${message}`)).toEqual([
			'definitions/yard/yard.wsdl: the operation Gone is bound and its port type does not have it',
			'definitions/yard/yard.wsdl: the binding Mail goes over http://example.org/smtp; calls go over HTTP here'
		]);
		expect(yard.problems.every(({ line }) => line > 20)).toBe(true);
	});
	test('with imports that are not there lists all of them and goes on', () => {
		const found = readWith({
			'definitions/yard/parts/types.xsd': undefined,
			'definitions/yard/parts/ports.wsdl': undefined
		});
		expect(found.missing).toEqual(['parts/types.xsd', 'parts/ports.wsdl']);
		expect(found.operations).toHaveLength(9);
		// what is not defined may hold anything
		const model = modelOf(found, found.operations[0]!);
		expect(writeEnvelope(model, sampleValues(model, 'full')).problems).toEqual([]);
		const messages = found.problems.map(({ message }) => message).join('\n');
		expect(messages).toContain(
			'parts/types.xsd is imported and is not there: it belongs at definitions/yard/parts/types.xsd'
		);
	});
	test('says which security its policies ask for', () => {
		const tolls = readFileSync(
			new URL('../../../demo/reedmere/definitions/tolls/ledger.wsdl', import.meta.url),
			'utf8'
		);
		const { operations } = readDefinition('definitions/t/l.wsdl', (path) =>
			path.endsWith('l.wsdl') ? tolls : undefined
		);
		expect(operations.find(({ name }) => name === 'RecordPassage')!.wants).toEqual([
			'user name and password',
			'password digest'
		]);
		expect(operations.find(({ name }) => name === 'QuoteToll')!.wants).toEqual([]);
	});
	test.each([
		['is HTML', '<!doctype html><html><body>Sign in</body></html>', /it is an HTML page/],
		['is HTML that is XML too', '<html xmlns="http://www.w3.org/1999/xhtml"/>', /it is an HTML page/],
		['is empty', '  \n', /it is empty/],
		['is JSON', '{"openapi": "3.1.0"}', /it is not XML; it starts with: \{"openapi"/],
		['is WSDL 2.0', '<description xmlns="http://www.w3.org/ns/wsdl"/>', /it is WSDL 2.0, and WSDL 1.1 is read here/],
		[
			'has another namespace',
			'<definitions xmlns="urn:other"/>',
			/definitions in the namespace urn:other, and http:\/\/schemas/
		],
		[
			'is a schema',
			'<schema xmlns="http://www.w3.org/2001/XMLSchema"/>',
			/its root is schema, and definitions \(WSDL 1\.1\) is wanted/
		],
		['ends early', '<definitions xmlns="http://schemas.xmlsoap.org/wsdl/"><types>', /at 1:\d+/],
		[
			'reads a file by an entity',
			'<!DOCTYPE d [<!ENTITY x SYSTEM "file:///etc/hostname">]><definitions xmlns="http://schemas.xmlsoap.org/wsdl/">&x;</definitions>',
			/&x; is read from elsewhere, which is refused/
		],
		['is nested too deep', `${'<a>'.repeat(5000)}`, /nested more than 1000 deep/]
	])('that %s is refused in words', (_, text, expected) => {
		expect(() => readDefinition('a.wsdl', () => text)).toThrow(expected);
	});
	test('of ten megabytes is read', () => {
		const types = Array.from(
			{ length: 40_000 },
			(_, i) =>
				`<xs:complexType name="T${i}"><xs:sequence><xs:element name="a${i}" type="xs:int" minOccurs="0"/><xs:element name="b${i}" type="xs:string"/></xs:sequence><!-- ${'x'.repeat(80)} --></xs:complexType>`
		);
		const text = sources.get('definitions/yard/yard.wsdl')!.replace('<xs:element name="Tree"', `${types.join('\n')}$&`);
		expect(text.length).toBeGreaterThan(10_000_000);
		expect(readWith({ 'definitions/yard/yard.wsdl': text }).operations).toHaveLength(9);
	});
	test.each([
		['https://h/a/ledger?wsdl', 'ledger.wsdl'],
		['https://h/a/Ledger.svc?singleWsdl', 'Ledger.svc.wsdl'],
		['https://h/ledger?xsd=types/one', 'ledger-xsd-types-one.xsd'],
		['https://h/tolls.xsd', 'tolls.xsd'],
		['https://h/', 'h.wsdl'],
		['https://h/%2e%2e%2fx', 'x.wsdl']
	])('from %s is kept as %s', (address, name) => {
		expect(fileOfAddress(address)).toBe(name);
	});
	test.each([
		['definitions/a/b/x.wsdl', '../c/y.xsd', 'definitions/a/c/y.xsd'],
		['definitions/a/x.wsdl', '../../../../etc/y.xsd', 'definitions/a/etc/y.xsd'],
		['definitions/a/x.wsdl', 'http://h/z?xsd=1', 'definitions/a/z-xsd-1.xsd']
	])('%s that imports %s finds it at %s', (from, location, path) => {
		expect(resolveLocation(from, location)).toBe(path);
	});
	test('is fetched with all that it imports, each once; what cannot be had is told', async () => {
		const served: Record<string, string> = {
			'http://h/yard?wsdl': sources.get('definitions/yard/yard.wsdl')!,
			'http://h/parts/types.xsd': sources.get('definitions/yard/parts/types.xsd')!,
			'http://h/parts/ports.wsdl': sources.get('definitions/yard/parts/ports.wsdl')!,
			'http://h/yard.wsdl': sources.get('definitions/yard/yard.wsdl')!
		};
		const asked: string[] = [];
		const { files, missing } = await gatherDefinition(
			'http://h/yard?wsdl',
			'definitions/yard',
			(address) => {
				asked.push(address);
				const text = served[address];
				return text === undefined
					? Promise.reject(new Error('it answers 404'))
					: Promise.resolve(new TextEncoder().encode(text));
			},
			(bytes) => new TextDecoder().decode(bytes)
		);
		expect(files.map(({ path }) => path)).toEqual([
			'definitions/yard/yard.wsdl',
			'definitions/yard/parts/ports.wsdl',
			'definitions/yard/parts/types.xsd'
		]);
		expect(missing).toEqual([{ address: 'http://h/parts/shared.xsd', detail: 'it answers 404' }]);
		expect(new Set(asked).size).toBe(asked.length);
	});
});

describe('an envelope', () => {
	const write = (key: string, values: Json, headers?: Record<string, Json>) =>
		writeEnvelope(modelFor(key), { values, ...(headers ? { headers } : {}) });
	test.each<[string, string, Json, string]>([
		[
			'elements stand in the order of the schema',
			'Yard.Tree',
			{ child: { name: 'b' }, name: 'a' },
			'<m:Tree><name>a</name><child><name>b</name></child></m:Tree>'
		],
		[
			'what repeats is a list',
			'Yard.Tree',
			{ name: 'a', child: [{ name: 'b' }, { name: 'c' }] },
			'<m:Tree><name>a</name><child><name>b</name></child><child><name>c</name></child></m:Tree>'
		],
		['texts are escaped', 'Yard.Tree', { name: 'R & B <"x">' }, '<m:Tree><name>R &amp; B &lt;"x"&gt;</name></m:Tree>'],
		[
			'RPC style is a call with its parts',
			'Crane.Lift',
			{ name: 'x', weights: [1, 2], place: { column: 2, row: 1 } },
			'<m:Lift><name>x</name><weights><item>1</item><item>2</item></weights><place><row>1</row><column>2</column></place></m:Lift>'
		],
		[
			'encoded parts tell their types',
			'OldCrane.Lift',
			{ name: 'x', weights: [1], place: { row: 1 } },
			'<m:Lift><name xsi:type="xsd:string">x</name><weights xsi:type="enc:Array" enc:arrayType="xsd:int[1]"><item xsi:type="xsd:int">1</item></weights><place xsi:type="m2:Place"><row xsi:type="xsd:int">1</row></place></m:Lift>'
		],
		['a part with a type alone stands bare', 'Yard.Bare', 7, '<number>7</number>']
	])('%s', (_, key, values, expected) => {
		const { text, problems } = write(key, values);
		expect(bodyOf(text)).toBe(expected);
		expect(problems).toEqual([]);
	});
	test('holds the headers that the definition knows', () => {
		const values = { berth: 'A-01', Barge: { name: 'Pike', holds: 3 } };
		const { text, problems } = write('Yard.Assign', values, { Session: 's-1' });
		expect(text).toContain('<m:Session>s-1</m:Session>\n  </env:Header>');
		expect(text).toMatch(/<m2:Barge>\s*<name>Pike<\/name>\s*<holds>3<\/holds>/);
		expect(problems).toEqual([]);
	});
	test('of nothing has an empty body', () => {
		expect(write('Yard.Empty', {}).text).toContain('<env:Body/>');
	});
	const changed = (path: (string | number)[], value: Json | undefined) => withValue(full, path, value);
	test.each<[string, Json, RegExp]>([
		['an element that is missing', changed(['side'], undefined), /^side: side is missing$/],
		['a name that is not known', changed(['sied'], 1), /^sied: there is no element sied here: did you mean "side"\?$/],
		['an attribute that is not known', changed(['@colour'], 'x'), /^@colour: Everything has no attribute colour/],
		['a value beyond a limit', changed(['side'], 13), /^side: at most 12.5 is wanted$/],
		['too many', { ...full, note: [{}, {}, {}, {}] }, /^note: note may stand 3 times here$/],
		['both of a choice', changed(['right'], '2027-05-03'), /^right: right does not go with the others here$/],
		['none of a choice', changed(['left'], undefined), /one of left, right, far is wanted/],
		['an abstract type', changed(['shape'], {}), /^shape.@xsi:type: it is abstract/],
		['a type that may not stand there', changed(['shape'], { '@xsi:type': 'Node' }), /there is no type Node here/],
		['nil where it may not be', changed(['side'], null), /^side: it cannot be nil$/],
		['another than the fixed value', changed(['@kind'], 'x'), /^@kind: it is fixed to yard$/],
		['text where elements are wanted', changed(['shared'], 'x'), /shared holds elements, no text/]
	])('%s is told, and written where it can be', (_, values, expected) => {
		const { problems, text } = writeEnvelope(everything, { values });
		expect(problems.map(({ path, message }) => `${path.join('.')}: ${message}`).join('\n')).toMatch(expected);
		expect(() => parseXml(text)).not.toThrow();
	});
	test('expressions are left alone, and nothing is said of them', () => {
		const { problems } = writeEnvelope(
			everything,
			{ values: { ...full, side: '{$env.side}', shared: '{$row.shared}' } },
			{ open: (text) => text.includes('{$') }
		);
		expect(problems).toEqual([]);
	});
	test('a choice that repeats keeps its order in passes', () => {
		const values: Record<string, Json> = {
			...full,
			log: { '#each': [{ in: '09:00:00' }, { out: '10:00:00' }, { in: '11:00:00' }] }
		};
		const { text, problems } = writeEnvelope(everything, { values });
		expect(problems).toEqual([]);
		expect(bodyOf(text)).toContain('<log><in>09:00:00</in><out>10:00:00</out><in>11:00:00</in></log>');
		expect((readEnvelope(everything, text).values as typeof values).log).toEqual(values.log);
	});
	test('whatever the prefixes, the same values are read', () => {
		const { text } = writeEnvelope(everything, { values: full });
		const other = text
			.replaceAll('env:', 'S:')
			.replace('xmlns:env', 'xmlns:S')
			.replaceAll('m:', 'q:')
			.replace('xmlns:m=', 'xmlns:q=');
		expect(readEnvelope(everything, other).values).toEqual(readEnvelope(everything, text).values);
		expect(sameXml(parseXml(other), parseXml(text))).toBe(true);
	});
	test.each([
		['a comment', (t: string) => t.replace('<env:Body>', '<!-- why --><env:Body>'), 'a comment'],
		[
			'a header that is not known',
			(t: string) => t.replace('<env:Body>', '<env:Header><x xmlns="urn:x"/></env:Header><env:Body>'),
			'the header x'
		],
		[
			'an element that is not known',
			(t: string) => t.replace('<side>', '<depth/><side>'),
			'the element depth in Everything'
		],
		[
			'a second element in the body',
			(t: string) => t.replace('</env:Body>', '<x/></env:Body>'),
			'the element x in the body'
		]
	])('what values cannot hold is told: %s', (_, change, expected) => {
		expect(readEnvelope(everything, change(writeEnvelope(everything, { values: full }).text)).beyond).toContain(
			expected
		);
	});
});

describe('a change on the form of an envelope that was written by hand', () => {
	const hand = writeEnvelope(everything, { values: full })
		.text.replace('<env:Body>', '<env:Header><x:trace xmlns:x="urn:x">1</x:trace></env:Header>\n  <env:Body>')
		.replace('<side>', '<!-- the quay side -->\n      <side>');
	const plain = (text: string) => ({ hidden: text, show: (same: string) => same });
	const change = (path: (string | number)[], value: Json | undefined) => {
		const values = withValue(readEnvelope(everything, hand).values, path, value);
		return patchEnvelope(plain(hand), plain(writeEnvelope(everything, { values }).text), path, value)!;
	};
	test.each<[string, (string | number)[], Json | undefined, RegExp]>([
		['a text is changed in its place', ['side'], 9.5, /<side>9.5<\/side>/],
		['an attribute is changed in its place', ['price', '@currency'], 'EUR', /<price currency="EUR">1<\/price>/],
		['the text beside attributes too', ['price', '#text'], '7 & 8', /<price currency="name">7 &amp; 8<\/price>/],
		['a deeper text', ['shared', 'berth'], 'B-02', /<m:berth>B-02<\/m:berth>/]
	])('%s, and all else stays', (_, path, value, expected) => {
		const next = change(path, value);
		expect(next).toMatch(expected);
		expect(next).toContain('<!-- the quay side -->');
		expect(next).toContain('<x:trace xmlns:x="urn:x">1</x:trace>');
		// nothing but that line
		const before = hand.split('\n');
		expect(next.split('\n').filter((line, index) => line !== before[index])).toHaveLength(1);
	});
	test('what is added or taken out is written with the least around it', () => {
		const next = change(['note'], undefined);
		expect(next).toContain('<x:trace xmlns:x="urn:x">1</x:trace>');
		expect(next).not.toContain('<note>');
		expect(() => parseXml(next)).not.toThrow();
	});
	test('expressions are hidden while it is read, and come back as they were', () => {
		const text = '<a b="{$env.x < 1 ? "&" : `>`}">{$y}</a>';
		const spans = [
			{ start: text.indexOf('{$env'), end: text.indexOf('}"') + 1 },
			{ start: text.indexOf('{$y'), end: text.indexOf('{$y}') + 4 }
		];
		const { hidden, show } = hideExpressions(text, spans);
		expect(hidden).toHaveLength(text.length);
		const root = parseXml(hidden);
		expect(show(root.attributes[0]!.value)).toBe('{$env.x < 1 ? "&" : `>`}');
		expect(show(String(root.children[0]))).toBe('{$y}');
	});
});

describe('a simple type', () => {
	const typeOf = (builtin: string, facets: SimpleType['facets'] = {}): SimpleType => ({
		kind: 'simple',
		name: '',
		builtin,
		variety: 'atomic',
		facets,
		doc: ''
	});
	test.each<[string, SimpleType, string, RegExp | undefined]>([
		['a day that there is', typeOf('date'), '2028-02-29', undefined],
		['a day that there is not', typeOf('date'), '2027-02-29', /there is no day/],
		['a time with a zone', typeOf('dateTime'), '2027-05-03T24:00:00+02:00', undefined],
		['a time of the wrong form', typeOf('dateTime'), '2027-05-03 09:30', /a date and time such as/],
		['a number with exponent as decimal', typeOf('decimal'), '1e3', /without exponent/],
		[
			'a long beyond 64 bits',
			typeOf('long', { maxInclusive: '9223372036854775807' }),
			'9223372036854775808',
			/at most/
		],
		['digits', typeOf('decimal', { totalDigits: 3 }), '12.34', /at most 3 digits/],
		['letters', typeOf('string', { maxLength: 2 }), 'äöü', /at most 2 letters are allowed, these are 3/],
		['a pattern that matches whole texts', typeOf('string', { patterns: [['[a-z]+']] }), 'abc1', /the pattern/],
		['letters of names', typeOf('string', { patterns: [['\\i\\c*']] }), 'a-1.b', undefined],
		['one of several patterns', typeOf('string', { patterns: [['a+', 'b+']] }), 'bb', undefined],
		[
			'a pattern that explodes elsewhere',
			typeOf('string', { patterns: [['(a+)+']] }),
			`${'a'.repeat(50_000)}!`,
			/the pattern/
		],
		['a value of a list', typeOf('token', { enumeration: ['x', 'y'] }), 'z', /one of x, y is wanted/],
		['bytes', typeOf('hexBinary', { length: 2 }), '0FB', /pairs of hexadecimal digits/]
	])('%s', (_, type, text, expected) => {
		const problem = simpleProblem(type, text);
		if (expected) expect(problem).toMatch(expected);
		else expect(problem).toBeUndefined();
	});
});

describe('an answer', () => {
	test('a fault of SOAP 1.1 is told in its parts', () => {
		const text = `<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><e:Fault><faultcode>e:Client.Length</faultcode><faultstring xml:lang="en">too long</faultstring><faultactor>urn:lock</faultactor><detail><t:F xmlns:t="urn:t"><t:limit>18</t:limit></t:F></detail></e:Fault></e:Body></e:Envelope>`;
		expect(readFault(text)).toEqual({
			version: '1.1',
			code: 'Client',
			subcodes: ['Length'],
			reasons: [{ language: 'en', text: 'too long' }],
			node: '',
			role: 'urn:lock',
			detail: ['<t:F xmlns:t="urn:t">\n  <t:limit>18</t:limit>\n</t:F>']
		});
	});
	test('a fault of SOAP 1.2 is told in its parts', () => {
		const text = `<e:Envelope xmlns:e="http://www.w3.org/2003/05/soap-envelope"><e:Body><e:Fault><e:Code><e:Value>e:Sender</e:Value><e:Subcode><e:Value>a:One</e:Value><e:Subcode><e:Value>a:Two</e:Value></e:Subcode></e:Subcode></e:Code><e:Reason><e:Text xml:lang="en">no</e:Text><e:Text xml:lang="de">nein</e:Text></e:Reason><e:Node>urn:n</e:Node><e:Role>urn:r</e:Role></e:Fault></e:Body></e:Envelope>`;
		const fault = readFault(text)!;
		expect([fault.code, fault.subcodes, fault.node, fault.role]).toEqual(['Sender', ['One', 'Two'], 'urn:n', 'urn:r']);
		expect(fault.reasons).toEqual([
			{ language: 'en', text: 'no' },
			{ language: 'de', text: 'nein' }
		]);
	});
	test.each(['', 'Fault', '<Fault/>', '<a>Fault', `<e:Envelope xmlns:e="urn:other"><e:Fault/></e:Envelope>`])(
		'%s holds no fault',
		(text) => {
			expect(readFault(text)).toBeUndefined();
		}
	);
	const bytes = (text: string) => new TextEncoder().encode(text);
	const related = (start: string) => `multipart/related; type="application/xop+xml"; boundary="b"${start}`;
	const body = bytes(
		'pre\r\n--b\r\nContent-ID: <one>\r\nContent-Type: image/png\r\nContent-Transfer-Encoding: base64\r\n\r\nAAEC\r\n--b\r\nContent-Type: application/xop+xml\r\nContent-ID: <root@x>\r\n\r\n<a/>\r\n--b--\r\n'
	);
	test('attachments are told from the root part', () => {
		const { root, parts } = readRelated(body, related('; start="<root@x>"'));
		expect(new TextDecoder().decode(root.bytes)).toBe('<a/>');
		expect(parts.map(({ id, type, bytes: own }) => [id, type, [...own]])).toEqual([['one', 'image/png', [0, 1, 2]]]);
	});
	test.each([
		['no boundary', body, 'multipart/related', /names no boundary/],
		['no part', bytes('--b--'), related(''), /has no part/],
		['no root part', body, related('; start="<gone>"'), /has no root part: none is called gone/]
	])('a multipart body with %s is refused in words', (_, given, type, expected) => {
		expect(() => readRelated(given, type)).toThrow(expected);
	});
	test('references to attachments are filled in as Base64', () => {
		const { parts } = readRelated(body, related('; start="<root@x>"'));
		const text = '<r><x:Include xmlns:x="http://www.w3.org/2004/08/xop/include" href="cid:one"/></r>';
		expect(withoutXop(text, parts)).toBe('<r>AAEC</r>');
	});
	test('is set out with a line for each element', () => {
		expect(prettyXml('<a x="1"><b>t</b><c/><d>m <e/></d></a>')).toBe(
			'<a x="1">\n  <b>t</b>\n  <c/>\n  <d>m <e/></d>\n</a>'
		);
	});
});

describe('a definition that is read anew', () => {
	test('tells what is added, gone, and another one, in the message and in the answer', () => {
		const text = sources.get('definitions/yard/yard.wsdl')!;
		const after = readWith({
			'definitions/yard/yard.wsdl': text
				.replace(/<w:operation name="Empty"><s:operation.*?<\/w:operation>/, '')
				.replace('http://127.0.0.1:9/crane', 'http://127.0.0.1:9/cranes')
				.replace('<w:part name="done" type="xs:boolean"/>', '<w:part name="done" type="xs:int"/>'),
			'definitions/yard/parts/types.xsd': sources
				.get('definitions/yard/parts/types.xsd')!
				.replace('<xs:element name="craft" type="t:CraftType"/>', '<xs:element name="boat" type="t:CraftType"/>')
				.replace('value="12.5"', 'value="14"')
		});
		const changes = compareDefinitions(yard, after).map(
			({ key, version, change, what }) => `${key} ${version} ${change}: ${what.join('; ')}`
		);
		expect(changes).toEqual([
			'Yard.Everything 1.1 changed: Everything/boat is new; Everything/craft is gone; Everything/side has changed'.replace(
				' Everything/shape/xsi:type has changed;',
				''
			),
			'Yard.Everything 1.2 changed: Everything/boat is new; Everything/craft is gone; Everything/side has changed',
			'Crane.Lift 1.1 changed: the address is http://127.0.0.1:9/cranes; in the answer, LiftResponse/done has changed',
			'OldCrane.Lift 1.1 changed: in the answer, LiftResponse/done has changed',
			'Yard.Empty 1.1 gone: '
		]);
		expect(compareDefinitions(yard, readWith())).toEqual([]);
	});
});

describe('the registry of definitions', () => {
	const bytes = (text: string) => new TextEncoder().encode(text);
	const files = new Map([...sources].map(([path, text]) => [path, bytes(text)]));
	files.set('definitions/odd.wsdl', bytes('<html/>'));
	const wsdls = createWsdlRegistry(files.keys(), (path) => files.get(path));
	test.each([
		['Yard.Everything', '', '1.1'],
		['Yard.Everything', '1.2', '1.2'],
		['Tree', '', '1.1']
	])('%s in version "%s" is found', (key, version, found) => {
		expect(wsdls.find(key, version, 'yard/yard.wsdl').operation.version).toBe(found);
	});
	test.each([
		['Yard.Tre', '', /there is no operation "Yard.Tre" in definitions\/: did you mean "Yard.Tree"\?/],
		['Yard.Tree', '1.2', /"Yard.Tree of SOAP 1.2".*there is one of SOAP 1.1/]
	])('%s in version "%s" is missed with a hint', (key, version, expected) => {
		expect(() => wsdls.find(key, version, 'yard/yard.wsdl')).toThrow(expected);
	});
	test('a file that cannot be read keeps no other from being used; a piece of another one is none of its own', () => {
		expect(wsdls.all().map(({ file, error }) => [file, error?.code])).toEqual([
			['definitions/odd.wsdl', 'definition.wrong'],
			['definitions/yard/yard.wsdl', undefined]
		]);
		expect(wsdls.find('Yard.Tree').operation.name).toBe('Tree');
	});
});

describe('what WS-Addressing calls a message', () => {
	const definition = (more: { namespace?: string; input?: string; action?: string; oneWay?: boolean }) =>
		readDefinition(
			'definitions/w.wsdl',
			() => `<w:definitions xmlns:w="http://schemas.xmlsoap.org/wsdl/" xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:wsam="http://www.w3.org/2007/05/addressing/metadata" xmlns:t="${more.namespace ?? 'http://reedmere.example/locks'}" targetNamespace="${more.namespace ?? 'http://reedmere.example/locks'}">
	<w:message name="m"/>
	<w:portType name="Locks"><w:operation name="Open"><w:input message="t:m" ${more.input ?? ''}/>${more.oneWay ? '' : '<w:output message="t:m"/>'}</w:operation></w:portType>
	<w:binding name="b" type="t:Locks"><s:binding transport="http://schemas.xmlsoap.org/soap/http"/><w:operation name="Open"><s:operation soapAction="${more.action ?? ''}"/><w:input><s:body use="literal"/></w:input></w:operation></w:binding>
	<w:service name="S"><w:port name="p" binding="t:b"><s:address location="http://127.0.0.1:9/"/></w:port></w:service>
</w:definitions>`
		).operations[0]!.addressingAction;
	test.each<[string, Parameters<typeof definition>[0], string]>([
		['by its names, where nothing is said', {}, 'http://reedmere.example/locks/Locks/OpenRequest'],
		['with the name of the input', { input: 'name="Please"' }, 'http://reedmere.example/locks/Locks/Please'],
		['without an answer', { oneWay: true }, 'http://reedmere.example/locks/Locks/Open'],
		['in a URN', { namespace: 'urn:reedmere:locks' }, 'urn:reedmere:locks:Locks:OpenRequest'],
		[
			'in a namespace that ends in a slash',
			{ namespace: 'http://reedmere.example/' },
			'http://reedmere.example/Locks/OpenRequest'
		],
		['by SOAP, where that says one', { action: 'open' }, 'open'],
		['by the port type before all', { action: 'open', input: 'wsam:Action="urn:open"' }, 'urn:open']
	])('%s', (_, more, expected) => {
		expect(definition(more)).toBe(expected);
	});
});
