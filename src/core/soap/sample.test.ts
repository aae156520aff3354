import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import { modelOf, readDefinition, sampleValues } from './index.ts';

const schemaOf = (body: string) =>
	`<definitions xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:x="http://www.w3.org/2001/XMLSchema" xmlns:t="urn:t" targetNamespace="urn:t"><types><x:schema targetNamespace="urn:t" elementFormDefault="qualified">${body}</x:schema></types><message name="m"><part name="p" element="t:in"/></message><portType name="P"><operation name="O"><input message="t:m"/></operation></portType><binding name="B" type="t:P"><s:binding transport="http://schemas.xmlsoap.org/soap/http"/><operation name="O"><s:operation soapAction=""/><input><s:body use="literal"/></input></operation></binding><service name="S"><port name="P" binding="t:B"><s:address location="http://127.0.0.1:9/x"/></port></service></definitions>`;

describe('samples have an end', () => {
	const levels = Array.from(
		{ length: 20 },
		(_, n) =>
			`<x:complexType name="L${n}"><x:sequence>${['a', 'b', 'c', 'd'].map((name) => `<x:element name="${name}" type="${n === 19 ? 'x:string' : `t:L${n + 1}`}"/>`).join('')}</x:sequence></x:complexType>`
	).join('');
	test.each([
		[
			'a million elements that must be there',
			'<x:element name="in"><x:complexType><x:sequence><x:element name="a" type="x:string" minOccurs="1000000" maxOccurs="unbounded"/></x:sequence></x:complexType></x:element>',
			/the sample ends at a: it would have more than 6000 elements/
		],
		[
			'a text of half a billion letters',
			'<x:element name="in"><x:complexType><x:sequence><x:element name="a"><x:simpleType><x:restriction base="x:string"><x:minLength value="500000000"/></x:restriction></x:simpleType></x:element></x:sequence></x:complexType></x:element>',
			/a text was cut at 100000 characters/
		],
		[
			'bytes of half a gigabyte',
			'<x:element name="in"><x:complexType><x:sequence><x:element name="a"><x:simpleType><x:restriction base="x:hexBinary"><x:length value="500000000"/></x:restriction></x:simpleType></x:element></x:sequence></x:complexType></x:element>',
			/a text was cut at 100000 characters/
		],
		[
			'twenty levels of four children',
			`<x:element name="in" type="t:L0"/>${levels}`,
			/the sample ends at [abcd]: it would have more than/
		]
	])('%s', (_, body, message) => {
		const definition = readDefinition('definitions/s.wsdl', () => schemaOf(body));
		const model = modelOf(definition, definition.operations[0]!);
		for (const kind of ['minimal', 'telling', 'full', 'random'] as const) {
			const { values, stopped } = sampleValues(model, kind);
			expect(stopped).toMatch(message);
			expect(JSON.stringify(values).length).toBeLessThan(3_000_000);
		}
	});
});

describe('a telling sample', () => {
	const tree = `<x:complexType name="Boat"><x:sequence><x:element name="name" type="x:string" minOccurs="0"/><x:element name="tender" type="t:Boat" minOccurs="0" nillable="true"/></x:sequence></x:complexType>`;
	const crew = `<x:complexType name="Crew"><x:sequence><x:element name="who" type="x:string"/><x:element name="age" type="x:int" minOccurs="0"/></x:sequence></x:complexType>`;
	const inside = (content: string, more = '') =>
		`<x:element name="in"><x:complexType><x:sequence>${content}</x:sequence></x:complexType></x:element>${more}`;
	test.each<[string, string, Json]>([
		[
			'holds the least where something is demanded',
			inside('<x:element name="who" type="x:string"/><x:element name="age" type="x:int" minOccurs="0"/>'),
			{ who: 'text' }
		],
		[
			'holds what there may be where nothing is',
			inside('<x:element name="who" type="x:string" minOccurs="0"/><x:element name="age" type="x:int" minOccurs="0"/>'),
			{ who: 'text', age: '0' }
		],
		[
			'goes on so inside, and holds the least of what demands something there',
			inside('<x:element name="crew" type="t:Crew" minOccurs="0"/>', crew),
			{ crew: { who: 'text' } }
		],
		[
			'holds one of a list',
			inside('<x:element name="crew" type="t:Crew" minOccurs="0" maxOccurs="unbounded"/>', crew),
			{ crew: { who: 'text' } }
		],
		[
			'takes one branch of a choice',
			inside('<x:choice minOccurs="0"><x:element name="a" type="x:int"/><x:element name="b" type="x:int"/></x:choice>'),
			{ a: '0' }
		],
		[
			'leaves out what would lead back to itself',
			inside('<x:element name="boat" type="t:Boat" minOccurs="0"/>', tree),
			{ boat: { name: 'text' } }
		],
		['leaves out what may be anything', inside('<x:any minOccurs="0" processContents="lax"/>'), {}],
		[
			'holds the attributes of what has nothing else',
			'<x:element name="in"><x:complexType><x:attribute name="lock" type="x:string"/></x:complexType></x:element>',
			{ '@lock': 'text' }
		],
		[
			'leaves out attributes beside content',
			inside(
				'<x:element name="a"><x:complexType><x:sequence><x:element name="b" type="x:int" minOccurs="0"/></x:sequence><x:attribute name="c" type="x:int"/></x:complexType></x:element>'
			),
			{ a: { b: '0' } }
		]
	])('%s', (_, body, expected) => {
		const definition = readDefinition('definitions/s.wsdl', () => schemaOf(body));
		expect(sampleValues(modelOf(definition, definition.operations[0]!), 'telling').values).toEqual(expected);
	});
	test('of a type that could hold very much ends where it would no longer be read', () => {
		const levels = Array.from({ length: 12 }, (_, n) => {
			const type = n === 11 ? 'x:string' : `t:L${n + 1}`;
			const four = ['a', 'b', 'c', 'd'].map((name) => `<x:element name="${name}" type="${type}" minOccurs="0"/>`);
			return `<x:complexType name="L${n}"><x:sequence>${four.join('')}</x:sequence></x:complexType>`;
		});
		const definition = readDefinition('definitions/s.wsdl', () =>
			schemaOf(`<x:element name="in" type="t:L0"/>${levels.join('')}`)
		);
		const { values, stopped } = sampleValues(modelOf(definition, definition.operations[0]!), 'telling');
		expect(stopped).toBeUndefined();
		expect(JSON.stringify(values).length).toBeLessThan(5000);
	});
});
