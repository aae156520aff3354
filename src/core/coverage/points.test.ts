import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { describe, expect, test } from 'vitest';
import { ownDefinitions } from '../../../tests/support/definitions.ts';
import { stringify } from 'yaml';
import { parseSoap, writeEnvelope } from '../soap/index.ts';
import { loadProject } from '../project/index.ts';
import type { Coverage } from '../tallies/index.ts';
import { Collector, missingStep, plannedCoverage } from './index.ts';

/** The points of an operation that are touched. */
const touched = (found: Coverage, operation: string): string[] =>
	found.definitions.flatMap(({ operations }) =>
		operations
			.filter(({ name }) => name === operation)
			.flatMap(({ points }) => points.filter(({ count }) => count > 0).map(({ name }) => name))
	);
const utf8 = (text: string) => new TextEncoder().encode(text);

describe('what schemas single out', () => {
	const body = {
		type: 'object',
		required: ['name', 'owner', 'payment'],
		properties: {
			name: { type: 'string', minLength: 3, maxLength: 8 },
			code: { type: 'string', pattern: '^[A-Z]{2}\\d{3}$', maxLength: 5 },
			born: { type: 'string', format: 'date' },
			draught: { type: 'number', exclusiveMinimum: 0, maximum: 2.5 },
			crew: { type: 'integer', exclusiveMinimum: 0, exclusiveMaximum: 9, multipleOf: 2 },
			marks: { type: 'array', minItems: 1, maxItems: 3, items: { enum: ['red', 'green'] } },
			owner: { oneOf: [{ title: 'Somebody', type: 'string', minLength: 1 }, { $ref: '#/components/schemas/Club' }] },
			parent: { anyOf: [{ $ref: '#/components/schemas/Club' }, { type: 'null' }] },
			payment: { $ref: '#/components/schemas/Payment' }
		}
	};
	const document = {
		openapi: '3.1.0',
		info: { title: 'Berths', version: '1' },
		components: {
			securitySchemes: { card: { type: 'mutualTLS' }, key: { type: 'apiKey', in: 'query', name: 'k' } },
			schemas: {
				Club: {
					type: 'object',
					required: ['club'],
					properties: { club: { type: 'string' }, since: { type: 'integer' } }
				},
				Card: {
					type: 'object',
					required: ['kind', 'number'],
					properties: { kind: { const: 'card' }, number: { type: 'string' }, three: { type: 'integer', maximum: 999 } }
				},
				Cash: {
					type: 'object',
					required: ['kind'],
					properties: { kind: { const: 'cash' }, coins: { type: 'boolean' } }
				},
				Payment: {
					oneOf: [{ $ref: '#/components/schemas/Card' }, { $ref: '#/components/schemas/Cash' }],
					discriminator: {
						propertyName: 'kind',
						mapping: { card: '#/components/schemas/Card', cash: '#/components/schemas/Cash' }
					}
				}
			}
		},
		paths: {
			'/boats': {
				post: {
					security: [{ card: [] }, { key: [] }, { card: [], key: [] }],
					parameters: [
						{ name: 'tag', in: 'query', schema: { type: 'array', items: { enum: ['a', 'mill pond'] } } },
						{ name: 'word', in: 'query', schema: { type: 'string', minLength: 2 } },
						{ name: 'page', in: 'query', schema: { minimum: 1 } }
					],
					requestBody: { required: true, content: { 'application/json': { schema: body } } },
					responses: { 201: { description: 'made' }, 422: { description: 'refused' } }
				}
			}
		}
	};
	const post = 'POST /boats';
	const file = 'definitions/boats.json';
	const load = (steps: object[]) =>
		loadProject(
			[
				{ path: 'heron.yaml', text: 'heron: 1\n' },
				{ path: 'connections/b.yaml', text: 'heron: 1\nbase: http://127.0.0.1:9\n' },
				{ path: 'credentials/card.yaml', text: 'heron: 1\nkind: client-certificate\npkcs12: files/a.p12\n' },
				{ path: 'credentials/k.yaml', text: 'heron: 1\nkind: api-key\nin: query\nname: k\nkey: "{$secret.k}"\n' },
				{
					path: 'collections/c.yaml',
					text: stringify({
						...{ heron: 1, connection: 'b' },
						scenarios: [{ id: 's', steps: steps.map((one, n) => ({ id: `s${n}`, ...one })) }]
					})
				}
			],
			new Set([file, 'files/a.p12']),
			() => utf8(JSON.stringify(document))
		).workspace;
	const points = plannedCoverage(load([]), '').definitions[0]!.operations[0]!.points;
	// judged by another validator than ours, which knows nothing of discriminators
	const ajv = addFormats.default(new Ajv2020({ strict: false }));
	ajv.addSchema(document, 'doc');
	const fits = ajv.compile({ $ref: 'doc#/paths/~1boats/post/requestBody/content/application~1json/schema' });

	test('lengths, patterns, formats, open ends, lists, alternatives and their own fields', () => {
		expect(points.map(({ name }) => name)).toEqual([
			...[
				'called',
				'answer 201',
				'answer 422',
				'query tag',
				'without query tag',
				'query tag = a',
				'query tag = mill pond'
			],
			'query tag of none of its values',
			...[
				'query word',
				'without query word',
				'query word of 2 letters, the fewest',
				'query word of fewer than 2 letters'
			],
			...['query page', 'without query page', 'query page = 1, the least', 'query page less than 1'],
			...['body $.name', 'without body $.name, which is required', 'body $.name of 3 letters, the fewest'],
			...[
				'body $.name of 8 letters, the most',
				'body $.name of fewer than 3 letters',
				'body $.name of more than 8 letters'
			],
			...['body $.code', 'without body $.code', 'body $.code of 5 letters, the most'],
			...['body $.code of more than 5 letters', 'body $.code that does not fit its pattern'],
			...['body $.born', 'without body $.born', 'body $.born that is no date'],
			...['body $.draught', 'without body $.draught', 'body $.draught of 0 or less', 'body $.draught = 2.5, the most'],
			...['body $.draught more than 2.5', 'body $.draught that is no number'],
			...['body $.crew', 'without body $.crew', 'body $.crew = 2, the least', 'body $.crew of 0 or less'],
			...['body $.crew = 8, the most', 'body $.crew of 9 or more', 'body $.crew that is no number'],
			...[
				'body $.marks',
				'without body $.marks',
				'body $.marks of 1 item, the fewest',
				'body $.marks of 3 items, the most'
			],
			...['body $.marks of fewer than 1 item', 'body $.marks of more than 3 items'],
			...['body $.marks[*] = red', 'body $.marks[*] = green', 'body $.marks[*] of none of its values'],
			...['body $.owner', 'without body $.owner, which is required', 'body $.owner as Somebody'],
			...['body $.owner of 1 letter, the fewest as Somebody'],
			...['body $.owner as Club', 'body $.owner.club as Club'],
			...['body $.owner.since as Club', 'without body $.owner.since as Club'],
			'body $.owner of none of its alternatives',
			...['body $.parent', 'without body $.parent', 'body $.parent as Club', 'body $.parent.club as Club'],
			...['body $.parent.since as Club', 'without body $.parent.since as Club', 'body $.parent as null'],
			'body $.parent of none of its alternatives',
			...['body $.payment', 'without body $.payment, which is required', 'body $.payment as card'],
			...['body $.payment.number as card', 'without body $.payment.number as card, which is required'],
			...[
				'body $.payment.three as card',
				'without body $.payment.three as card',
				'body $.payment.three = 999, the most as card'
			],
			...['body $.payment.three more than 999 as card', 'body $.payment.three that is no number as card'],
			'body $.payment as cash',
			...['body $.payment.coins as cash', 'without body $.payment.coins as cash'],
			...['body $.payment.coins = true as cash', 'body $.payment.coins = false as cash'],
			'body $.payment.coins that is no truth value as cash',
			'body $.payment of none of its alternatives',
			...['signed in by card', 'signed in by key', 'signed in by card and key']
		]);
	});
	test.each(points.map(({ kind, name }) => [name, kind] as const))(
		'%s: a step is made for it, right or wrong as it is meant',
		(name, kind) => {
			const { step, notes } = missingStep(load([]), file, post, name)!;
			expect(notes).toEqual([]);
			expect(touched(plannedCoverage(load([step]), ''), post)).toContain(name);
			const { json } = step.body as { json: unknown };
			const inBody = name.includes('body $');
			expect([fits(json), step.body]).toEqual([!(kind === 'beyond' && inBody), step.body]);
			if (kind === 'beyond')
				expect(step.checks).toEqual([{ status: 422 }, { contract: { request: false } }, { contract: true }]);
		}
	);
});

describe('operations of a WSDL', () => {
	const files = ownDefinitions();
	const load = (steps: object[]) =>
		loadProject(
			[
				{ path: 'heron.yaml', text: 'heron: 1\n' },
				{ path: 'connections/t.yaml', text: 'heron: 1\nbase: http://127.0.0.1:4683\n' },
				{
					path: 'collections/c.yaml',
					text: stringify({
						...{ heron: 1, connection: 't' },
						scenarios: [{ id: 's', steps: steps.map((one, n) => ({ id: `s${n}`, ...one })) }]
					})
				}
			],
			new Set(files.keys()),
			(path) => (files.has(path) ? utf8(files.get(path)!) : undefined)
		);
	const all = plannedCoverage(load([]).workspace, '').definitions.flatMap(({ file, operations }) =>
		operations.flatMap(({ name, points }) => points.map((point) => [file, name, point.name, point.kind] as const))
	);
	test('offer answers, faults, alternatives, types that stand in, fields and listed values', () => {
		const names = all.filter(([, operation]) => /RecordPassage$/.test(operation)).map(([, , name]) => name);
		expect(names).toMatchInlineSnapshot(`
			[
			  "called",
			  "answer",
			  "fault PassageFault",
			  "RecordPassage/lock = Staithe Lock",
			  "RecordPassage/lock = Mill Lock",
			  "RecordPassage/lock = Upper Staircase",
			  "RecordPassage/craft/kind = barge",
			  "RecordPassage/craft/kind = cruiser",
			  "RecordPassage/craft/kind = dinghy",
			  "RecordPassage/craft/licence",
			  "without RecordPassage/craft/licence",
			  "RecordPassage/direction = up",
			  "RecordPassage/direction = down",
			  "RecordPassage/payment of type CashPayment",
			  "RecordPassage/payment of type TicketPayment",
			  "RecordPassage/payment/journeys of type TicketPayment",
			  "without RecordPassage/payment/journeys of type TicketPayment",
			  "RecordPassage/remark",
			  "without RecordPassage/remark",
			]
		`);
		expect(new Set(all.map(([, , , kind]) => kind))).toEqual(
			new Set(['operation', 'answer', 'choice', 'field', 'value'])
		);
	});
	test.each(all)('%s, %s, %s: a step is made for it, and it fits', (file, operation, name) => {
		const { step, notes } = missingStep(load([]).workspace, file, operation, name)!;
		expect(notes).toEqual([]);
		const { workspace } = load([step]);
		expect(workspace.problems).toEqual([]);
		expect(touched(plannedCoverage(workspace, ''), operation)).toContain(name);
		// and what was sent shows the same
		const soap = parseSoap((step.body as { soap: unknown }).soap);
		const found = workspace.wsdls.find(operation, soap.version, soap.definition);
		const written = writeEnvelope(workspace.wsdls.model(found), soap);
		expect(written.problems).toEqual([]);
		if (/^(answer|fault |called)/.test(name)) return;
		const planned = touched(
			plannedCoverage(
				load([
					{
						...step,
						body: { soap: { operation, version: soap.version, definition: soap.definition, envelope: written.text } }
					}
				]).workspace,
				''
			),
			operation
		);
		expect(planned).toContain(name);
	});
	test('a fault that came is told by its detail', () => {
		const { workspace } = load([]);
		const collector = new Collector(workspace);
		const [, operation, fault] = all.find(([, , name]) => name.startsWith('fault '))!;
		collector.addSoap({
			step: 'c/s/a',
			operation,
			definition: '',
			version: '',
			answer: fault,
			values: () => undefined
		});
		expect(touched(collector.result(), operation)).toEqual(['called', fault]);
	});
});
