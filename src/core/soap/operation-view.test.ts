import { describe, expect, test } from 'vitest';
import { ownDefinitions } from '../../../tests/support/definitions.ts';
import { createWsdlRegistry, parseXml, readEnvelope, readFault, viewSoapOperation } from './index.ts';

const files = ownDefinitions();
const wsdls = createWsdlRegistry(files.keys(), (path) =>
	files.has(path) ? new TextEncoder().encode(files.get(path)!) : undefined
);

test('an operation as lines: elements by their depth, limits, types that stand in, what is answered and its faults', () => {
	const view = viewSoapOperation(wsdls, 'definitions/tolls/ledger.wsdl', 'TollLedger.RecordPassage')!;
	expect(view).toMatchObject({
		name: 'TollLedger.RecordPassage',
		security: ['user name and password', 'password digest'],
		parameters: []
	});
	const [body] = view.bodies;
	expect(body!.type).toBe('SOAP 1.1, SOAP 1.2');
	const line = ({ depth, name, type, required, limits }: (typeof body & object)['rows'][number]) =>
		`${'  '.repeat(depth)}${name}${required ? '!' : ''} ${type}${limits ? `: ${limits}` : ''}`;
	expect(body!.rows.map(line)).toEqual([
		'RecordPassage! elements',
		'  lock! string: one of Staithe Lock, Mill Lock, Upper Staircase',
		'  craft! elements',
		'    name! string: 1 letter at least; 40 letters at most',
		'    kind! string: one of barge, cruiser, dinghy',
		'    length! decimal: from 1; to 30; 2 digits behind the point at most',
		'    licence string: fits [A-Z]{2}-[0-9]{6}',
		'  direction! string: one of up, down',
		'  passedAt! dateTime',
		'  payment! elements',
		'    of type CashPayment ',
		'      pence! positiveInteger: from 1',
		'    of type TicketPayment ',
		'      ticket! token',
		'      journeys unsignedByte: from 0; to 255; 1 when left out',
		'  remark string: may be nil'
	]);
	expect(view.answers.map(({ status }) => status)).toEqual(['answer', 'fault PassageFault']);
	expect(readFault(view.answers[1]!.bodies[0]!.example)?.detail[0]).toContain('PassageFault');
});

describe('every operation of the definitions', () => {
	const all = wsdls
		.all()
		.flatMap(({ file, definition }) =>
			[...new Set((definition?.operations ?? []).map(({ key }) => key))].map((key) => [file, key] as const)
		);
	test.each(all)('%s, %s: its example is a message of it', (file, key) => {
		const view = viewSoapOperation(wsdls, file, key)!;
		const { definition, operation } = wsdls.find(key, '', file.replace('definitions/', ''));
		const [body] = view.bodies;
		expect(readEnvelope(wsdls.model({ definition, operation }), body!.example).beyond).toEqual([]);
		for (const { bodies } of view.answers)
			for (const one of bodies) expect(parseXml(one.example).local).toBe('Envelope');
	});
	test('one that is not there is none', () =>
		expect(viewSoapOperation(wsdls, 'definitions/tolls/ledger.wsdl', 'TollLedger.None')).toBeUndefined());
});
