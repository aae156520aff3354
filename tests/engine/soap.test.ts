import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, describe } from 'vitest';
import { parseXml, sameXml } from '#core/soap/index.ts';
import {
	contractFaults,
	modelOf,
	readDefinition,
	readEnvelope,
	sampleValues,
	schemaTexts,
	writeEnvelope,
	type Definition,
	type SampleKind
} from '#core/soap/index.ts';
import { createXml } from '#server/engine/xml.ts';
import { publicDefinitions } from '../support/definitions.ts';

const xml = createXml(() => undefined);
const read = (file: string): Definition =>
	readDefinition(file, (path) => (existsSync(join('/', path)) ? readFileSync(join('/', path), 'utf8') : undefined));
const yardFile = new URL('definitions/yard.wsdl', import.meta.url).pathname.slice(1);
const yard = read(yardFile);

function seeded(): () => number {
	let seed = 7;
	return () => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647;
}

/** What is wrong with the samples of all operations: against their schema, and on the way to values and back. */
async function odd(definition: Definition): Promise<string[]> {
	const out: string[] = [];
	for (const operation of definition.operations) {
		const model = modelOf(definition, operation);
		for (const kind of ['minimal', 'telling', 'full', 'random', 'random', 'random'] as SampleKind[]) {
			const random = kind === 'random' ? seeded() : undefined;
			const { text, problems } = writeEnvelope(model, sampleValues(model, kind, random));
			const say = (what: string) => out.push(`${operation.key} ${operation.version} ${kind}: ${what}`);
			for (const { path, message } of problems) say(`${path.join('.')}: ${message}`);
			for (const { message } of await contractFaults(text, 'input', { definition, operation }, xml)) say(message);
			const back = readEnvelope(model, text);
			if (back.beyond.length > 0) say(`beyond: ${back.beyond.join(', ')}`);
			if (!sameXml(parseXml(writeEnvelope(model, back).text), parseXml(text)))
				say('form → envelope → form is another one');
		}
	}
	return out;
}

describe('samples of every operation fit their own schema, and come back from the envelope the same', () => {
	test('of a definition with all that a schema can say', async () => {
		expect(await odd(yard)).toEqual([]);
	});
	test.each(publicDefinitions())('of %s', async (_, file) => {
		const definition = read(file);
		expect(definition.problems).toEqual([]);
		expect(definition.operations.length).toBeGreaterThan(0);
		expect(await odd(definition)).toEqual([]);
	});
});

describe('an answer of RPC style against its definition', () => {
	const operation = (key: string) => yard.operations.find((one) => one.key === key)!;
	const faultsOf = async (key: string, body: string) => {
		const text = `<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xmlns:xsd="http://www.w3.org/2001/XMLSchema"><e:Body>${body}</e:Body></e:Envelope>`;
		const found = await contractFaults(text, 'output', { definition: yard, operation: operation(key) }, xml);
		return found.map(({ message }) => message).join('\n');
	};
	const literal = (inner: string, name = 'LiftResponse') =>
		`<c:${name} xmlns:c="urn:reedmere:yard:calls">${inner}</c:${name}>`;
	const encoded = (inner: string, name = 'LiftResponse') =>
		`<c:${name} xmlns:c="urn:reedmere:yard:encoded">${inner}</c:${name}>`;
	test.each<[string, string, string, RegExp]>([
		['a literal one', 'Crane.Lift', literal('<done>true</done>'), /^$/],
		['a literal one without its part', 'Crane.Lift', literal(''), /done/],
		['a literal one whose part is of another name', 'Crane.Lift', literal('<ready>true</ready>'), /ready/],
		['a literal one whose part is of another type', 'Crane.Lift', literal('<done>perhaps</done>'), /perhaps/],
		[
			'a literal one of another name',
			'Crane.Lift',
			literal('<done>true</done>', 'Lifted'),
			/holds Lifted where LiftResponse is wanted/
		],
		['an encoded one', 'OldCrane.Lift', encoded('<done xsi:type="xsd:boolean">true</done>'), /^$/],
		['an encoded one of another name', 'OldCrane.Lift', encoded('<done>true</done>', 'Lifted'), /^$/],
		['an encoded one whose value is called otherwise', 'OldCrane.Lift', encoded('<return>true</return>'), /^$/],
		[
			'an encoded one whose value is called otherwise and of another type',
			'OldCrane.Lift',
			encoded('<r>perhaps</r>'),
			/done/
		],
		['an encoded one without its part', 'OldCrane.Lift', encoded(''), /done/],
		[
			'an encoded one whose part is of another type',
			'OldCrane.Lift',
			encoded('<done>perhaps</done>', 'Lifted'),
			/perhaps/
		],
		[
			'an encoded one that refers to its value',
			'OldCrane.Lift',
			`${encoded('<done href="#id0"/>')}<multiRef id="id0" e:encodingStyle="http://schemas.xmlsoap.org/soap/encoding/" xsi:type="xsd:boolean">true</multiRef>`,
			/^$/
		],
		[
			'an encoded one that refers to a value of another type',
			'OldCrane.Lift',
			`${encoded('<done href="#id0"/>')}<multiRef id="id0">perhaps</multiRef>`,
			/perhaps/
		],
		[
			'an encoded one whose value refers to itself',
			'OldCrane.Lift',
			`${encoded('<done href="#id0"/>')}<multiRef id="id0"><a href="#id0"/></multiRef>`,
			/done/
		]
	])('%s', async (_, key, body, expected) => {
		expect(await faultsOf(key, body)).toMatch(expected);
	});
});

describe('a message against its definition', () => {
	const operation = (key: string) => yard.operations.find((one) => one.key === key)!;
	const faultsOf = async (key: string, change: (text: string) => string) => {
		const found = operation(key);
		const model = modelOf(yard, found);
		const { text } = writeEnvelope(model, sampleValues(model, 'minimal'));
		const changed = change(text);
		expect(changed).not.toBe(text);
		return (await contractFaults(changed, 'input', { definition: yard, operation: found }, xml)).map(
			({ line, message }) => `${line}: ${message}`
		);
	};
	test.each([
		[
			'a value that is out of its limits',
			'Yard.Everything',
			(t: string) => t.replace(/<side>.*<\/side>/, '<side>13</side>'),
			/^\d+: .*side.*maxInclusive/
		],
		[
			'an element that is missing',
			'Yard.Everything',
			(t: string) => t.replace(/\s*<shape.*\/>/, ''),
			/^\d+: .*craft.*not expected.*shape/
		],
		[
			'an abstract type that is not told',
			'Yard.Everything',
			(t: string) => t.replace(/ xsi:type="m:Round"/, ''),
			/abstract/
		],
		[
			'a part of RPC style of another type',
			'Crane.Lift',
			(t: string) => t.replace(/<row>.*<\/row>/, '<row>one</row>'),
			/row.*xs:int/
		],
		[
			'another element in the body',
			'Yard.Tree',
			(t: string) => t.replaceAll('m:Tree', 'm:Bush'),
			/holds Bush where Tree is wanted/
		],
		[
			'the right name in another namespace',
			'Yard.Tree',
			(t: string) => t.replace('urn:reedmere:yard:types', 'urn:other'),
			/in the namespace urn:other/
		],
		[
			'another version of SOAP',
			'Yard.Tree',
			(t: string) => t.replace('http://schemas.xmlsoap.org/soap/envelope/', 'http://www.w3.org/2003/05/soap-envelope'),
			/SOAP 1.1 was agreed on/
		],
		['no envelope at all', 'Yard.Tree', () => '<html/>', /the answer is no envelope: its root is html/],
		['no XML at all', 'Yard.Tree', () => 'Bad gateway', /not well-formed/],
		['a body that ends early', 'Yard.Tree', (t: string) => t.slice(0, -20), /not well-formed/],
		[
			'an entity that refers to a file',
			'Yard.Tree',
			(t: string) => `<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/hostname">]>${t.replace(/<name>.*</, '<name>&x;<')}`,
			/&x; is read from elsewhere, which is refused/
		],
		[
			'entities that blow up',
			'Yard.Tree',
			(t: string) =>
				`<!DOCTYPE a [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>${t.replace(/<name>.*</, '<name>&b;<')}`,
			/&b; refers to others, which is refused/
		]
	])('%s is said', async (_, key, change, expected) => {
		expect((await faultsOf(key, change)).join('\n')).toMatch(expected);
	});
	test('the line is that of the envelope', async () => {
		const [first] = await faultsOf('Yard.Tree', (text) =>
			text.replace('<env:Body>', '\n\n\n<env:Body>').replace(/<name>.*\n/, '<nome/>\n')
		);
		expect(first).toMatch(/^7: /);
	});
	test('a schema whose content is ambiguous is said; the form of it works all the same', async () => {
		const files: Record<string, string> = {
			'definitions/x/a.wsdl': readFileSync(`/${yardFile}`, 'utf8')
				.replace(/<w:import.*\/>/, '')
				.replace('parts/types.xsd', 'own.xsd'),
			'definitions/x/own.xsd':
				'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:t="urn:reedmere:yard:types" targetNamespace="urn:reedmere:yard:types"><xs:complexType name="Node"><xs:sequence><xs:element name="a" minOccurs="0" maxOccurs="2" type="xs:string"/><xs:element name="a" type="xs:string"/></xs:sequence></xs:complexType></xs:schema>'
		};
		const definition = readDefinition('definitions/x/a.wsdl', (path) => files[path]);
		const tree = definition.operations.find(({ key }) => key === 'Yard.Tree')!;
		const model = modelOf(definition, tree);
		const { text, problems } = writeEnvelope(model, { values: { a: ['1', '2', '3'] } });
		expect(problems).toEqual([]);
		expect(text.match(/<a>/g)).toHaveLength(3);
		await expect(contractFaults(text, 'input', { definition, operation: tree }, xml)).rejects.toThrow(/cannot be used/);
	});
	test('a schema that contradicts itself is said with the file that it is in', async () => {
		const files: Record<string, string> = {
			'definitions/x/a.wsdl': readFileSync(`/${yardFile}`, 'utf8')
				.replace('parts/types.xsd', 'own.xsd')
				.replace(/<w:import.*\/>/, ''),
			'definitions/x/own.xsd':
				'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" targetNamespace="urn:reedmere:yard:types">\n<xs:simpleType name="Berth"><xs:restriction base="xs:nothing"/></xs:simpleType></xs:schema>'
		};
		const definition = readDefinition('definitions/x/a.wsdl', (path) => files[path]);
		await expect(xml.validateWith('<a/>', schemaTexts(definition))).rejects.toThrow(/cannot be used/);
	});
});

describe('schemas of standards that a definition imports from where they were published', () => {
	const W = 'http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity';
	const STANDARDS: Record<string, [namespace: string, elements: string[]]> = {
		a: [
			'http://www.w3.org/2005/08/addressing',
			'EndpointReference ReplyTo From FaultTo MessageID To Action ProblemIRI ReferenceParameters Metadata RelatesTo RetryAfter ProblemHeaderQName ProblemAction'.split(
				' '
			)
		],
		b: [
			'http://schemas.xmlsoap.org/ws/2004/08/addressing',
			'EndpointReference ReplyTo From FaultTo MessageID To Action RelatesTo ReplyAfter'.split(' ')
		],
		u: [`${W}-utility-1.0.xsd`, ['Timestamp', 'Created', 'Expires']],
		s: [
			`${W}-secext-1.0.xsd`,
			'UsernameToken Password Nonce BinarySecurityToken KeyIdentifier Reference Embedded SecurityTokenReference Security TransformationParameters'.split(
				' '
			)
		],
		d: ['http://www.w3.org/2000/09/xmldsig#', ['Signature']],
		x: ['http://www.w3.org/2004/08/xop/include', ['Include']]
	};
	const all = Object.entries(STANDARDS).flatMap(([prefix, [, elements]]) =>
		elements.map((name) => `<q:element ref="${prefix}:${name}"/>`)
	);
	const names = Object.entries(STANDARDS).map(([prefix, [namespace]]) => `xmlns:${prefix}="${namespace}"`);
	const imports = Object.values(STANDARDS).map(
		([namespace]) => `<q:import namespace="${namespace}" schemaLocation="http://schemas.example/away.xsd"/>`
	);
	const text = `<w:definitions xmlns:w="http://schemas.xmlsoap.org/wsdl/" xmlns:k="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:t="urn:t" targetNamespace="urn:t">
<w:types><q:schema xmlns:q="http://www.w3.org/2001/XMLSchema" ${names.join(' ')} targetNamespace="urn:t">${imports.join('')}
<q:element name="All"><q:complexType><q:sequence>${all.join('')}</q:sequence></q:complexType></q:element></q:schema></w:types>
<w:message name="In"><w:part name="p" element="t:All"/></w:message>
<w:portType name="P"><w:operation name="Ask"><w:input message="t:In"/></w:operation></w:portType>
<w:binding name="B" type="t:P"><k:binding transport="http://schemas.xmlsoap.org/soap/http"/><w:operation name="Ask"><k:operation soapAction=""/><w:input><k:body use="literal"/></w:input></w:operation></w:binding>
<w:service name="S"><w:port name="P" binding="t:B"><k:address location="http://127.0.0.1/"/></w:port></w:service></w:definitions>`;
	const definition = readDefinition('definitions/standards.wsdl', (path) =>
		path.endsWith('standards.wsdl') ? text : undefined
	);
	test('are known, and what is made of each fits it', async () => {
		expect(definition.problems).toEqual([]);
		expect(definition.missing).toEqual([]);
		expect(await odd(definition)).toEqual([]);
	});
	test.each([
		['an address that is missing', /(<(?:\w+:)?ReplyTo[^>]*>)[\s\S]*?(<\/(?:\w+:)?ReplyTo>)/, '$1$2', /ReplyTo/],
		['a pause that is no number', /(<(?:\w+:)?RetryAfter[^>]*>)\d+/, '$1soon', /RetryAfter/],
		['a user without a name', /<(\w+:)?Username[ >][\s\S]*?<\/(\w+:)?Username>/, '', /Username/]
	])('tell %s', async (_, part, instead, expected) => {
		const [operation] = definition.operations;
		const { text: envelope } = writeEnvelope(
			modelOf(definition, operation!),
			sampleValues(modelOf(definition, operation!), 'full')
		);
		expect(envelope).toMatch(part);
		const faults = await contractFaults(
			envelope.replace(part, instead),
			'input',
			{ definition, operation: operation! },
			xml
		);
		expect(faults.map(({ message }) => message).join()).toMatch(expected);
	});
});
