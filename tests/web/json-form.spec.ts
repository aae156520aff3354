import { accessible, drawer, expect, saved, test, write } from './fixtures.ts';

const DEFINITION = `openapi: 3.1.0
info: { title: Boats, version: '1' }
paths:
  /echo:
    post:
      requestBody:
        content:
          application/json:
            schema: { $ref: '#/components/schemas/Boat' }
      responses: { '200': { description: ok } }
components:
  schemas:
    Boat:
      type: object
      required: [kind, name]
      discriminator: { propertyName: kind, mapping: { barge: '#/components/schemas/Barge', punt: '#/components/schemas/Punt' } }
      oneOf: [{ $ref: '#/components/schemas/Barge' }, { $ref: '#/components/schemas/Punt' }]
      properties:
        id: { type: integer, readOnly: true }
        kind: { type: string }
        name: { type: string, maxLength: 6, description: As it stands on the bow }
        built: { type: string, format: date }
        state: { type: string, enum: [afloat, ashore] }
        berth: { oneOf: [{ type: 'null' }, { type: object, required: [lock], properties: { lock: { type: string }, place: { type: integer } } }] }
        crew: { type: array, maxItems: 2, items: { type: object, required: [age], properties: { age: { type: integer, minimum: 16 }, captain: { type: boolean } } } }
        labels: { type: object, additionalProperties: { type: string } }
        tows: { $ref: '#/components/schemas/Boat' }
    Barge: { type: object, required: [load], properties: { load: { type: number } } }
    Punt: { type: object, properties: { poles: { type: integer } } }
`;
const sheet = (body: string, more = '') =>
	`heron: 1\ntitle: Sheet\nconnection: mirror\nscenarios:\n  - id: s\n    title: One\n    steps:\n      - id: make\n        send: POST /echo\n        body:\n          json: ${body}\n${more}`;

test('a body by its definition: forms, lists, null, others’ names; form and text in step, faults in place', async ({
	page,
	bench
}) => {
	const url = await bench.project('formed', {
		'definitions/boats.yaml': DEFINITION,
		'connections/mirror.yaml': `heron: 1\nbase: ${bench.standin('mirror')}\ndefinition: boats.yaml\n`,
		'collections/sheet.yaml': sheet('{ kind: barge, name: Pike, load: 2 }')
	});
	await page.goto(`${url}/collections/sheet#s/make`);
	const step = drawer(page, /^Step 1/);
	const form = step.getByRole('region', { name: 'Form' });
	const text = step.getByRole('textbox', { name: 'Body, JSON' });
	await expect(step.getByText('POST /echo of boats.yaml')).toBeVisible();
	await expect(form.getByRole('button', { name: 'Add id' })).toHaveCount(0);

	await form.getByRole('button', { name: 'Add state' }).click();
	await form.getByRole('combobox', { name: 'state', exact: true }).selectOption('ashore');
	await form.getByRole('button', { name: 'Add crew' }).click();
	await write(form.getByRole('textbox', { name: 'age of crew 1' }), '12');
	await expect(form.getByText('16 at least')).toBeVisible();
	await expect(step.getByText('one thing does not fit; it can be sent so on purpose')).toBeVisible();
	await write(form.getByRole('textbox', { name: 'age of crew 1' }), '{$env.age}');
	await expect(form.getByText('16 at least')).toHaveCount(0);
	await form.getByRole('button', { name: 'Add captain of crew 1' }).click();
	await form.getByRole('button', { name: 'Add an item to crew' }).click();
	await expect(form.getByRole('button', { name: 'Add an item to crew' })).toHaveCount(0);
	await form.getByRole('button', { name: 'Remove crew 2' }).click();
	await form.getByRole('button', { name: 'Add berth' }).click();
	await form.getByRole('button', { name: 'Make null: berth' }).click();
	await form.getByRole('button', { name: 'Add labels' }).click();
	await form.getByRole('button', { name: 'Add a property to labels' }).click();
	await form.getByRole('textbox', { name: 'Name of name of labels' }).fill('colour');
	await form.getByRole('textbox', { name: 'Name of name of labels' }).press('Enter');
	await expect(form.getByRole('textbox', { name: 'colour of labels', exact: true })).toBeVisible();
	await accessible(page);

	// another form keeps what both know
	await form.getByRole('combobox', { name: 'Form of', exact: false }).first().selectOption('punt');
	await expect(text).toContainText('"kind": "punt"');
	await expect(text).not.toContainText('load');
	await expect(text).toContainText('"name": "Pike"');
	await saved(page);
	const yaml = await bench.file('formed', 'collections/sheet.yaml');
	expect(yaml).toMatch(/berth: null/);
	expect(yaml).toMatch(/age: "\{\$env\.age\}"/);
	expect(yaml).toMatch(/captain: true/);

	// what is typed in the text stands in the form
	await write(text, '{ "kind": "punt", "name": "Perch and pike", "odd": 1 }');
	await expect(form.getByRole('textbox', { name: 'name', exact: true })).toContainText('Perch and pike');
	await expect(form.getByText('6 letters at most')).toBeVisible();
	await form.getByRole('textbox', { name: 'Name of odd' }).fill('even');
	await form.getByRole('textbox', { name: 'Name of odd' }).press('Enter');
	await expect(text).toContainText('"even": 1');
	// a boat tows a boat tows a boat
	await form.getByRole('button', { name: 'Add tows', exact: true }).click();
	await form.getByRole('button', { name: 'Add tows of tows' }).click();
	await expect(form.getByRole('textbox', { name: 'name of tows of tows' })).toBeVisible();
	await step.getByRole('button', { name: 'all there is' }).click();
	await expect(step.getByText(/not fit/)).toHaveCount(0);
	await step.getByRole('button', { name: 'the least' }).click();
	await page.getByRole('button', { name: 'undo' }).first().click();
	await expect(text).toContainText('crew');
	await write(text, '{ "a": {$env.b} }');
	await expect(form.getByText('there are no fields for it')).toBeVisible();
});

test('without a definition the fields of a sample are kept as a schema, which the step names', async ({
	page,
	bench
}) => {
	const url = await bench.project('sampled', {
		'collections/sheet.yaml': sheet('{ boat: Pike, nights: 2, lock: { id: 7 } }')
	});
	await page.goto(`${url}/collections/sheet#s/make`);
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: 'as fields' }).click();
	const form = step.getByRole('region', { name: 'Form' });
	await expect(form.getByRole('textbox', { name: 'id of lock' })).toHaveText('7');
	await accessible(page);
	await step.getByRole('button', { name: 'keep them as a schema' }).click();
	await expect(step.getByRole('link', { name: 'schemas/make.json' })).toBeVisible();
	await saved(page);
	await expect.poll(() => bench.file('sampled', 'collections/sheet.yaml')).toContain('schema: schemas/make.json');
	expect(JSON.parse(await bench.file('sampled', 'schemas/make.json'))).toMatchObject({
		required: ['boat', 'nights', 'lock'],
		properties: { nights: { type: 'integer' } }
	});
	await write(form.getByRole('textbox', { name: 'nights' }), 'two');
	await expect(form.getByText('a whole number is wanted')).toBeVisible();
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 1' })).toContainText('200');
	await step.getByRole('button', { name: 'without it' }).click();
	await expect(step.getByRole('button', { name: 'as fields' })).toBeVisible();
});

test('the fields of a form and the parts of a multipart body are fields with their types, as their definition has them', async ({
	page,
	bench
}) => {
	const definition = `openapi: 3.1.0
info: { title: Permits, version: '1' }
paths:
  /form:
    post:
      requestBody:
        content:
          application/x-www-form-urlencoded:
            schema: { type: object, required: [boat], properties: { boat: { type: string }, nights: { type: integer, maximum: 7 }, state: { type: string, enum: [afloat, ashore] }, locks: { type: array, items: { type: string } }, size: { type: object, properties: { length: { type: number } } } } }
            encoding: { size: { style: deepObject, explode: true } }
      responses: { '200': { description: ok } }
  /parts:
    post:
      requestBody:
        content:
          multipart/form-data:
            schema: { type: object, required: [scan], properties: { scan: { type: string, format: binary }, permit: { type: object, required: [boat], properties: { boat: { type: string } } } } }
            encoding: { scan: { contentType: application/pdf } }
      responses: { '200': { description: ok } }
`;
	const url = await bench.project('fielded', {
		'definitions/permits.yaml': definition,
		'connections/mirror.yaml': `heron: 1\nbase: ${bench.standin('mirror')}\ndefinition: permits.yaml\n`,
		'collections/sheet.yaml':
			'heron: 1\ntitle: Sheet\nconnection: mirror\nscenarios:\n  - id: s\n    title: One\n    steps:\n' +
			'      - { id: form, send: POST /form, body: { form: { boat: Pike, nights: "9", locks: { value: old, off: true } } } }\n' +
			'      - { id: parts, send: POST /parts, body: { multipart: [{ name: scan, file: files/permit.pdf, filename: p.pdf }] } }\n'
	});
	await page.goto(`${url}/collections/sheet#s/form`);
	const first = drawer(page, /^Step 1/);
	const form = first.getByRole('region', { name: 'Form' });
	await expect(form.getByText('7 at most')).toBeVisible();
	await write(form.getByRole('textbox', { name: 'nights' }), '5');
	await form.getByRole('button', { name: 'Add state' }).click();
	await form.getByRole('combobox', { name: 'state', exact: true }).selectOption('ashore');
	await form.getByRole('button', { name: 'Add size' }).click();
	await write(form.getByRole('textbox', { name: 'length of size' }), '12.5');
	// both are in step: what is written below is what the fields say
	const rows = first.getByRole('table', { name: 'Form fields' });
	await expect(rows.getByRole('textbox', { name: 'Value of field size[length]' })).toHaveText('12.5');
	await accessible(page);
	await saved(page);
	await expect
		.poll(() => bench.file('fielded', 'collections/sheet.yaml'))
		.toMatch(/nights: 5[\s\S]*state: ashore[\s\S]*"?size\[length\]"?: "?12\.5"?/);
	await expect
		.poll(() => bench.file('fielded', 'collections/sheet.yaml'))
		.toContain('locks: { value: old, off: true }');

	await page.goto(`${url}/collections/sheet#s/parts`);
	const second = drawer(page, /^Step 2/);
	const parts = second.getByRole('region', { name: 'Form' });
	await expect(parts.getByRole('combobox', { name: 'scan', exact: true })).toHaveValue('files/permit.pdf');
	await parts.getByRole('combobox', { name: 'scan', exact: true }).fill('files/permit-renewed.pdf');
	await parts.getByRole('combobox', { name: 'scan', exact: true }).blur();
	await parts.getByRole('button', { name: 'Add permit' }).click();
	await write(parts.getByRole('textbox', { name: 'boat of permit' }), 'Slow Tide');
	await expect(second.getByRole('textbox', { name: 'JSON of part 2' })).toContainText('Slow Tide');
	await accessible(page);
	await second.getByRole('button', { name: /^Send this step/ }).click();
	await expect(second.getByRole('tree', { name: 'Body' })).toContainText('p.pdf');
	const file = await bench.file('fielded', 'collections/sheet.yaml');
	expect(file).toContain('filename: p.pdf');
	expect(file).toContain('file: files/permit-renewed.pdf');
});
