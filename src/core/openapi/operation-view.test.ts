import { describe, expect, test } from 'vitest';
import type { OperationView } from '../model/operation-view.ts';
import { operationsOf, readOpenapi, viewOperation } from './index.ts';

const DOCUMENT = `openapi: 3.1.0
info: { title: Boats, version: '1' }
paths:
  /boats/{id}:
    put:
      operationId: putBoat
      summary: Change a boat
      description: All of it.
      deprecated: true
      security: [{ key: [] }, { oauth: [write, read], key: [] }, {}]
      parameters:
        - { name: id, in: path, required: true, description: Its number, schema: { type: integer, minimum: 1 } }
        - { name: dry, in: query, schema: { type: boolean, default: false } }
      requestBody:
        required: true
        content:
          application/json: { schema: { $ref: '#/components/schemas/Boat' } }
      responses:
        '200':
          description: changed
          headers: { ETag: { required: true, description: Its version, schema: { type: string } } }
          content:
            application/json: { schema: { $ref: '#/components/schemas/Boat' } }
        '404': { $ref: '#/components/responses/Nothing' }
components:
  responses: { Nothing: { description: not there } }
  schemas:
    Boat:
      type: object
      required: [name]
      additionalProperties: false
      properties:
        id: { type: integer, readOnly: true }
        name: { type: string, minLength: 1, maxLength: 40, description: As it stands on the bow }
        state: { enum: [afloat, ashore] }
        crew: { type: array, maxItems: 2, items: { type: object, required: [age], properties: { age: { type: integer } } } }
        labels: { type: object, additionalProperties: { type: string } }
        berth: { oneOf: [{ title: Lock, type: string }, { type: 'null' }] }
        tows: { $ref: '#/components/schemas/Boat' }
        pin: { type: string, writeOnly: true }
`;
const view = (text = DOCUMENT): OperationView =>
	viewOperation(operationsOf(readOpenapi('definitions/x.yaml', () => text))[0]!);
const lines = ({ rows }: OperationView['bodies'][number] | OperationView['answers'][number]['bodies'][number]) =>
	rows.map(({ depth, name, type, required, limits, doc, form, cut }) =>
		[`${'.'.repeat(depth)}${name}`, type, required ? '!' : '', limits, doc, form ? 'form' : '', cut ? 'cut' : '']
			.filter(Boolean)
			.join(' | ')
	);

describe('an operation is shown', () => {
	test('with all that is said of it', () => {
		const shown = view();
		expect(shown).toMatchObject({
			...{ name: 'PUT /boats/{id}', id: 'putBoat', summary: 'Change a boat', description: 'All of it.' },
			deprecated: true,
			security: ['key', 'oauth (write, read) and key', 'nobody is asked'],
			parameters: [
				{
					place: 'path',
					name: 'id',
					required: true,
					row: { type: 'whole number', limits: 'from 1', doc: 'Its number' }
				},
				{ place: 'query', name: 'dry', required: false, row: { type: 'true or false', limits: 'false when left out' } }
			],
			answers: [
				{
					status: '200',
					description: 'changed',
					headers: [{ name: 'ETag', row: { type: 'text', required: true, doc: 'Its version' } }]
				},
				{ status: '404', description: 'not there', bodies: [] }
			]
		});
		expect(JSON.parse(shown.bodies[0]!.example)).toMatchObject({ name: expect.any(String) as string, state: 'afloat' });
	});
	test('bodies as lines, from the outside to the inside', () => {
		const { bodies, answers } = view();
		expect(lines(bodies[0]!)).toEqual([
			'object | ! | nothing else',
			'.name | text | ! | 1 letter at least; 40 letters at most | As it stands on the bow',
			'.state | one of afloat, ashore',
			'.crew | list | 2 items at most',
			'..[ ] | object',
			'...age | whole number | !',
			'.labels | object',
			'..{ } | text',
			'.berth',
			'..Lock | text | Lock | form',
			'..form 2 | null | form',
			'.tows | object | nothing else | cut',
			'.pin | text'
		]);
		const names = (list: string[]) => list.map((one) => one.split(' | ')[0]!.replace(/\./g, ''));
		// what only calls, or only answers have
		expect(names(lines(answers[0]!.bodies[0]!))).toContain('id');
		expect(names(lines(answers[0]!.bodies[0]!))).not.toContain('pin');
	});
	test('what leads nowhere is left out', () => {
		const shown = view(DOCUMENT.replaceAll("'#/components/schemas/Boat'", "'#/components/schemas/Nothing'"));
		expect(shown.bodies[0]!.rows.length).toBeLessThan(2);
		expect(shown.parameters).toHaveLength(2);
	});
});
