import {
	modelOf,
	readDefinition,
	sampleValues,
	simpleProblem,
	writeEnvelope,
	contractFaults,
	type SampleKind
} from '#core/soap/index.ts';
import { createXml } from '#server/engine/xml.ts';
import { describe, expect, test } from 'vitest';

// What is said beside a field, and what is made for it, against libxml2.
const xml = createXml(() => undefined);
const XS = 'http://www.w3.org/2001/XMLSchema';

/** A definition with one operation whose body is an element `v`, and what else the schema holds. */
function definitionOf(schema: string) {
	const text = `<w:definitions xmlns:w="http://schemas.xmlsoap.org/wsdl/" xmlns:k="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:t="urn:t" targetNamespace="urn:t">
<w:types><xs:schema xmlns:xs="${XS}" xmlns:t="urn:t" targetNamespace="urn:t" elementFormDefault="qualified">${schema}</xs:schema></w:types>
<w:message name="In"><w:part name="p" element="t:v"/></w:message>
<w:portType name="P"><w:operation name="Ask"><w:input message="t:In"/></w:operation></w:portType>
<w:binding name="B" type="t:P"><k:binding transport="http://schemas.xmlsoap.org/soap/http"/><w:operation name="Ask"><k:operation soapAction=""/><w:input><k:body use="literal"/></w:input></w:operation></w:binding>
<w:service name="S"><w:port name="P" binding="t:B"><k:address location="http://127.0.0.1/"/></w:port></w:service></w:definitions>`;
	const definition = readDefinition('definitions/a.wsdl', (path) => (path.endsWith('a.wsdl') ? text : undefined));
	expect(definition.problems, schema).toEqual([]);
	return { definition, operation: definition.operations[0]! };
}
const restricted = (base: string, facets: string) =>
	`<xs:element name="v"><xs:simpleType><xs:restriction base="xs:${base}">${facets}</xs:restriction></xs:simpleType></xs:element>`;
const facet = (name: string, ...values: string[]) =>
	values.map((value) => `<xs:${name} value="${value.replace(/&/g, '&amp;').replace(/</g, '&lt;')}"/>`).join('');
const envelopeOf = (value: string) =>
	`<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><v xmlns="urn:t">${value.replace(/&/g, '&amp;').replace(/</g, '&lt;')}</v></e:Body></e:Envelope>`;

const cases: [base: string, facets: string, values: string[]][] = [
	['decimal', facet('enumeration', '1.0', '2.50'), ['1', '1.00', '+1', '01', '2.5', '2.51', '']],
	['decimal', facet('maxInclusive', '-0.5'), ['-0.5', '-0.50', '-0.4999999999999999999', '-1', '0']],
	[
		'decimal',
		facet('minExclusive', '0.1') + facet('fractionDigits', '2'),
		['0.10', '0.11', '0.111', '0.1000000000000001', '5.10']
	],
	['decimal', facet('totalDigits', '4'), ['1234', '12345', '0.1234', '12.340', '0001234', '-1234', '.5']],
	['integer', facet('maxExclusive', '-5'), ['-5', '-6', '-4', '-0', '6']],
	[
		'unsignedLong',
		facet('minInclusive', '18446744073709551000'),
		['18446744073709551000', '18446744073709551615', '18446744073709551616', '18446744073709550999', '1']
	],
	[
		'long',
		'',
		['9223372036854775807', '9223372036854775808', '-9223372036854775808', '-9223372036854775809', '1.0', '+5']
	],
	['byte', '', ['127', '128', '-128', '-129', '0x1']],
	['negativeInteger', facet('minInclusive', '-10'), ['-10', '-11', '-1', '0']],
	['boolean', facet('pattern', 'true|1'), ['true', '1', 'false', '0', 'TRUE']],
	['float', facet('maxInclusive', '1.5E2'), ['150', '1.5e2', '150.1', '-INF', 'INF', 'NaN', '1E']],
	['double', facet('enumeration', '1', 'INF'), ['1.0', '1e0', 'INF', '+INF', '2']],
	['date', facet('pattern', '2027-0[1-6]-.*'), ['2027-03-01', '2027-07-01', '2027-02-29', '2027-05-03Z']],
	[
		'date',
		facet('minExclusive', '2027-05-03'),
		['2027-05-03', '2027-05-04', '2027-05-02', '-2027-05-04', '12027-01-01']
	],
	[
		'date',
		facet('maxInclusive', '2027-05-03Z'),
		['2027-05-03Z', '2027-05-03+01:00', '2027-05-03-01:00', '2027-05-04Z']
	],
	[
		'dateTime',
		facet('minInclusive', '2027-05-03T09:30:00Z'),
		[
			'2027-05-03T09:30:00Z',
			'2027-05-03T11:30:00+02:00',
			'2027-05-03T11:29:59+02:00',
			'2027-05-03T09:29:59.999Z',
			'2027-05-03T24:00:00Z',
			'2027-05-03T25:00:00Z',
			'2027-05-03'
		]
	],
	[
		'dateTime',
		facet('enumeration', '2027-05-03T12:00:00Z'),
		['2027-05-03T12:00:00Z', '2027-05-03T14:00:00+02:00', '2027-05-03T12:00:00.000Z', '2027-05-03T12:00:01Z']
	],
	[
		'time',
		facet('minInclusive', '08:00:00') + facet('maxInclusive', '17:00:00'),
		['08:00:00', '07:59:59', '17:00:00', '17:00:00.001', '12:30', '24:00:00']
	],
	['time', facet('maxExclusive', '12:00:00Z'), ['11:59:59Z', '12:00:00Z', '14:00:00+01:00']],
	['duration', facet('maxInclusive', 'P1M'), ['P1M', 'P30D', 'P28D', 'P32D', 'P1Y', 'PT1H', '-P1D', 'P']],
	['duration', facet('minExclusive', 'PT1H'), ['PT1H', 'PT60M', 'PT61M', 'P1D', 'PT0S', 'PT3600.1S']],
	['gYear', facet('minInclusive', '2000'), ['2000', '1999', '2027', '02000', '-2000']],
	['gYearMonth', facet('maxExclusive', '2027-06'), ['2027-05', '2027-06', '2027-13']],
	['gMonthDay', '', ['--02-29', '--02-30', '--13-01', '--12-31', '12-31']],
	['gDay', '', ['---31', '---32', '---00']],
	['string', facet('pattern', '[a-z-[aeiou]]+'), ['bcd', 'abc', 'xyz', '', 'B']],
	['string', facet('pattern', '\\p{IsBasicLatin}{3}'), ['abc', 'a1 ', 'äbc', 'ab']],
	['string', facet('pattern', '\\p{Lu}\\P{Lu}\\d\\D'), ['Ab1c', 'ab1c', 'AB1c', 'Ab12']],
	['string', facet('pattern', '\\i\\c*'), ['a-1', '_x', '1a', ':a', 'a b']],
	['string', facet('pattern', '^a$'), ['a', '^a$', '']],
	['string', facet('pattern', 'a.b'), ['axb', 'a\nb', 'ab']],
	['string', facet('pattern', '[^\\s,]{2,3}'), ['ab', 'a b', 'a,b', 'abcd', 'abc']],
	['string', facet('pattern', 'a', 'b{2}'), ['a', 'bb', 'b', 'ab']],
	['string', facet('pattern', '[\\-+*/]\\.\\|\\\\'), ['+.|\\', '-.|\\', 'a.|\\']],
	['string', facet('length', '3'), ['abc', 'äöü', '𝄞𝄞𝄞', 'ab', 'abcd', 'a b']],
	['token', facet('maxLength', '3'), ['a b', ' a  b ', 'abcd']],
	['normalizedString', facet('enumeration', 'a b'), ['a b', 'a\nb', 'a  b']],
	['NMTOKEN', '', ['a-1', '-a', '1', 'a b', '', 'é']],
	['NCName', '', ['a', 'a:b', '1a', '_', 'a.b']],
	['language', '', ['en', 'en-GB', 'e1', 'englishlanguage', 'de-CH-1996']],
	['hexBinary', facet('enumeration', '0fb7') + '', ['0FB7', '0fb7', '0FB8', '0F']],
	['hexBinary', facet('length', '2'), ['0FB7', '0F', '0FB7AA', '0G']],
	['base64Binary', facet('maxLength', '3'), ['AAAA', 'AAAAAA==', 'AAA', 'AA==', '', 'A A A A']],
	['anyURI', facet('pattern', 'https://.*'), ['https://a/b', 'http://a']],
	['ID', facet('pattern', '[A-Z]\\d+'), ['A1', 'a1', 'AA1']],
	['ID', facet('length', '4'), ['abcd', 'abc']]
];

describe('a hint beside a field says what libxml2 says', () => {
	test.each(cases)('%s %s', async (base, facets, values) => {
		const found = definitionOf(restricted(base, facets));
		const type = modelOf(found.definition, found.operation).types;
		const simple = Object.values(type).find((one) => one.kind === 'simple')!;
		for (const value of values) {
			const judged = (await contractFaults(envelopeOf(value), 'input', found, xml)).length === 0;
			const hinted = simpleProblem(simple as never, value);
			expect(hinted === undefined, `${value}: ${hinted ?? 'no hint'}`).toBe(judged);
		}
	});
});

describe('what is made for a type fits it', () => {
	const KINDS: SampleKind[] = ['minimal', 'telling', 'full', 'random', 'random', 'random', 'random'];
	function seeded(): () => number {
		let seed = 11;
		return () => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647;
	}
	async function unfit(schema: string): Promise<string[]> {
		const found = definitionOf(schema);
		const model = modelOf(found.definition, found.operation);
		const random = seeded();
		const out: string[] = [];
		for (const kind of KINDS) {
			const { text, problems } = writeEnvelope(
				model,
				sampleValues(model, kind, kind === 'random' ? random : undefined)
			);
			const body = text.replace(/[\s\S]*<env:Body>|<\/env:Body>[\s\S]*/g, '').trim();
			for (const { message } of problems) out.push(`${kind}: ${message}: ${body}`);
			for (const { message } of await contractFaults(text, 'input', found, xml))
				out.push(`${kind}: ${message}: ${body}`);
		}
		return out;
	}
	test.each(cases)('%s %s', async (base, facets) => {
		expect(await unfit(restricted(base, facets))).toEqual([]);
	});
	const inside = (content: string, more = '') =>
		`<xs:element name="v"><xs:complexType>${content}</xs:complexType></xs:element>${more}`;
	const el = (name: string, type = 'int', more = '') => `<xs:element name="${name}" type="xs:${type}" ${more}/>`;
	test.each([
		[
			'a choice that stands twice at least',
			inside(`<xs:choice minOccurs="2" maxOccurs="4">${el('a')}${el('b')}</xs:choice>`)
		],
		[
			'a choice of lists',
			inside(
				`<xs:choice minOccurs="3" maxOccurs="unbounded">${el('a', 'int', 'minOccurs="2" maxOccurs="2"')}</xs:choice>`
			)
		],
		[
			'a sequence that stands twice at least',
			inside(`<xs:sequence minOccurs="2" maxOccurs="3">${el('a')}${el('b', 'string', 'minOccurs="0"')}</xs:sequence>`)
		],
		[
			'a choice inside of a sequence',
			inside(
				`<xs:sequence>${el('x')}<xs:choice minOccurs="2" maxOccurs="2">${el('a')}${el('b')}</xs:choice>${el('y')}</xs:sequence>`
			)
		],
		[
			'a list of a restricted type',
			`<xs:element name="v"><xs:simpleType><xs:restriction><xs:simpleType><xs:list itemType="xs:byte"/></xs:simpleType><xs:minLength value="3"/></xs:restriction></xs:simpleType></xs:element>`
		],
		[
			'a union',
			`<xs:element name="v"><xs:simpleType><xs:union memberTypes="xs:int xs:date"/></xs:simpleType></xs:element>`
		],
		['all', inside(`<xs:all>${el('a')}${el('b', 'date', 'minOccurs="0"')}</xs:all>`)],
		[
			'a key',
			`<xs:element name="v"><xs:complexType><xs:sequence>${el('id', 'int', 'minOccurs="3" maxOccurs="3"')}</xs:sequence></xs:complexType><xs:key name="k"><xs:selector xpath="t:id"/><xs:field xpath="."/></xs:key></xs:element>`
		],
		[
			'what is unique',
			`<xs:element name="v"><xs:complexType><xs:sequence><xs:element name="row" minOccurs="2" maxOccurs="5"><xs:complexType><xs:attribute name="code" type="xs:string" use="required"/></xs:complexType></xs:element></xs:sequence></xs:complexType><xs:unique name="u"><xs:selector xpath="t:row"/><xs:field xpath="@code"/></xs:unique></xs:element>`
		],
		[
			'a tree that refers to itself',
			inside(
				'<xs:sequence><xs:element ref="t:node"/></xs:sequence>',
				`<xs:element name="node"><xs:complexType><xs:sequence>${el('name', 'string')}<xs:element ref="t:node" minOccurs="0" maxOccurs="unbounded"/></xs:sequence></xs:complexType></xs:element>`
			)
		],
		[
			'anything of the schema itself, strictly',
			inside(
				'<xs:sequence><xs:any namespace="##targetNamespace" processContents="strict"/></xs:sequence>',
				'<xs:element name="other" type="xs:int"/>'
			)
		],
		[
			'anything, strictly, that need not be there',
			inside(`<xs:sequence>${el('a')}<xs:any namespace="##any" processContents="strict" minOccurs="0"/></xs:sequence>`)
		]
	])('%s', async (_, schema) => {
		expect(await unfit(schema)).toEqual([]);
	});
});

describe('values that the definition does not know', () => {
	const found = definitionOf(
		'<xs:element name="v"><xs:complexType><xs:sequence><xs:element name="a" type="xs:int" maxOccurs="2"/></xs:sequence></xs:complexType></xs:element>'
	);
	const model = modelOf(found.definition, found.operation);
	const values = { a: [1, 2, 3], extra: { '@unit': 'm', inner: ['x', null], '#text': 'y & z' }, '@odd': 'q' };
	const headers = { trace: 'one' };
	test('are told, and left out of what is written', () => {
		const { text, problems } = writeEnvelope(model, { values, headers });
		expect(problems.filter(({ unknown }) => unknown).map(({ path }) => path.join('.'))).toEqual([
			'headers.trace',
			'@odd',
			'extra',
			'a'
		]);
		expect(text).not.toMatch(/extra|odd|trace|>3</);
	});
	test('are written as they stand where it is wanted, behind what is known, and told all the same', async () => {
		const { text, problems } = writeEnvelope(model, { values, headers }, { unknown: true });
		expect(problems).toHaveLength(4);
		const body = text.replace(/\s*\n\s*/g, '');
		expect(body).toContain('<env:Header><trace>one</trace></env:Header>');
		expect(body).toContain(
			'<m:v odd="q"><m:a>1</m:a><m:a>2</m:a><m:a>3</m:a><m:extra unit="m">y &amp; z<m:inner>x</m:inner><m:inner xsi:nil="true"/></m:extra></m:v>'
		);
		expect((await contractFaults(text, 'input', found, xml)).length).toBeGreaterThan(0);
	});
});
