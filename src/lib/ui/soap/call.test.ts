import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import type { Json } from '#core/model/json.ts';
import { modelOf, readDefinition } from '#core/soap/index.ts';
import { typed, viewCall, withEnvelope, withFormValue } from './call.ts';

const folder = new URL('../../../../demo/reedmere/definitions/', import.meta.url);
const definition = readDefinition('tolls/ledger.wsdl', (path) => readFileSync(new URL(path, folder), 'utf8'));
const model = modelOf(
	definition,
	definition.operations.find(({ key }) => key === 'TollLedger.FetchPassage')!
);
const call = (more: object): Json => ({ operation: 'TollLedger.FetchPassage', version: '1.1', ...more }) as Json;
const envelope = (inside: string, before = '') =>
	`${before}<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><t:FetchPassage xmlns:t="urn:reedmere:tolls:types">${inside}</t:FetchPassage></e:Body></e:Envelope>`;
const number = (text: string) => `<t:number>${text}</t:number>`;

describe('a call on the page', () => {
	test('is shown as an envelope in which expressions stand as they are written', () => {
		const { text, problems } = viewCall(model, call({ values: { number: '{$steps.a.b < 1 ? "&" : "x"} & co' } }));
		expect(text).toContain('<m:number>{$steps.a.b < 1 ? "&" : "x"} &amp; co</m:number>');
		expect(problems).toEqual([]);
	});
	test('tells what does not fit, with the path that fields know', () => {
		expect(viewCall(model, call({ values: { number: 'LP-1' } })).problems).toEqual([
			{ path: ['number'], message: 'the pattern LP-[0-9]{5} is wanted' }
		]);
	});
	test('with an envelope that cannot be read says why, and keeps its text', () => {
		const view = viewCall(model, call({ envelope: '<e:Envelope>' }));
		expect(view.trouble).toMatch(/not well-formed XML/);
		expect(view.text).toBe('<e:Envelope>');
	});
	test('with an envelope of the other version says so', () => {
		const other = envelope(number('LP-40118')).replace(
			'http://schemas.xmlsoap.org/soap/envelope/',
			'http://www.w3.org/2003/05/soap-envelope'
		);
		expect(viewCall(model, call({ envelope: other })).beyond).toEqual(['an envelope of SOAP 1.2']);
	});
});

describe('an envelope that is written', () => {
	test.each<[string, string, object]>([
		['becomes values where they hold all of it', envelope(number('LP-40118')), { values: { number: 'LP-40118' } }],
		['with expressions too', envelope(number('{$steps.a["<"]}')), { values: { number: '{$steps.a["<"]}' } }],
		[
			'stays when there is a comment',
			envelope(`<!-- why -->${number('LP-40118')}`),
			{ envelope: envelope(`<!-- why -->${number('LP-40118')}`) }
		],
		[
			'stays when something is in it twice',
			envelope(number('1') + number('2')),
			{ envelope: envelope(number('1') + number('2')) }
		],
		[
			'stays when an element is not known',
			envelope(`${number('1')}<t:lock/>`),
			{ envelope: envelope(`${number('1')}<t:lock/>`) }
		],
		['stays when it is broken', '<e:Envelope', { envelope: '<e:Envelope' }],
		['stays when an expression is not closed', envelope(number('{$a')), { envelope: envelope(number('{$a')) }]
	])('%s', (_, text, expected) => {
		expect(withEnvelope(model, call({ values: { number: 'x' }, mtom: true }), text)).toEqual({
			...(call({ mtom: true }) as object),
			...expected
		});
	});
});

describe('a field that is changed', () => {
	test('changes the value, and takes it out again', () => {
		const next = withFormValue(model, call({ values: {} }), ['number'], 'LP-40119');
		expect(next.values).toEqual({ number: 'LP-40119' });
		expect(withFormValue(model, next, ['number'], undefined).values).toEqual({});
	});
	test('touches one place of an envelope that was written by hand', () => {
		const hand = envelope(`<!-- why -->${number('{$row.number}')}`);
		const next = withFormValue(model, call({ envelope: hand }), ['number'], '{$env.a} & b');
		expect(next.envelope).toBe(hand.replace('{$row.number}', '{$env.a} &amp; b'));
	});
});

test.each<[string | undefined, string, Json]>([
	['number', '12.5', 12.5],
	['number', '12.50', '12.50'],
	['number', '007', '007'],
	['number', '12345678901234567890', '12345678901234567890'],
	['number', '{$env.a}', '{$env.a}'],
	['boolean', 'true', true],
	['boolean', '1', 1],
	['text', '12', '12'],
	[undefined, 'true', 'true']
])('what is typed into a field of %s: %s', (primitive, text, expected) => {
	expect(typed(primitive, text)).toEqual(expected);
});
