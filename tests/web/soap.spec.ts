import { wideDefinition } from '../support/wide-wsdl.ts';
import { readFileSync } from 'node:fs';
import { accessible, drawer, expect, saved, stepButton, test, write } from './fixtures.ts';

const demo = (path: string) => readFileSync(new URL(`../../demo/reedmere/${path}`, import.meta.url), 'utf8');

test('from a WSDL to a green suite with a fault that is expected, without typing XML', async ({ page, bench }) => {
	const url = await bench.project('tollhouse', {
		'collections/tolls.yaml': 'heron: 1\nscenarios: []\n',
		'definitions/tolls/ledger.wsdl': '',
		'definitions/tolls/tolls.xsd': ''
	});
	await page.goto(`${url}/collections`);
	await page.getByRole('button', { name: 'Import a definition' }).click();
	await page.getByLabel('Address of the definition').fill(`${bench.standin('tolls')}/ledger?wsdl`);
	await page.getByLabel('Name', { exact: true }).fill('toll-house');
	await page.getByRole('button', { name: 'Look at it' }).click();
	await expect(page.getByText(/^6 of \d+ scenarios chosen$/)).toBeVisible();
	await expect(
		page.getByText('TollLedger.RecordPassage asks for user name and password, password digest.')
	).toBeVisible();
	await accessible(page);
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await expect(page.getByRole('heading', { level: 1, name: 'TollLedger' })).toBeVisible();

	// a passage wants a name: the credential is chosen, and the form says what it takes
	await stepButton(page, 'record-passage', 'call').click();
	const record = drawer(page, /^Step 1/);
	await expect(record.getByText(/asks for user name and password/)).toBeVisible();
	await record.getByLabel('Credential', { exact: true }).selectOption('toll-clerk');
	await expect(record.getByText(/asks for user name and password/)).toBeHidden();
	const form = record.getByRole('region', { name: 'Form' });
	await form.getByLabel('lock', { exact: true }).selectOption('Mill Lock');
	await form.getByLabel('Type of payment').selectOption('TicketPayment');
	await write(form.getByLabel('ticket', { exact: true }), 'TT-9');
	await form.getByRole('button', { name: 'Add journeys to payment' }).click();
	await form.getByRole('button', { name: 'Add remark to RecordPassage' }).click();
	await form.getByRole('button', { name: 'Make nil: remark' }).click();
	await write(form.getByLabel('length', { exact: true }), '35');
	await expect(form.getByText('at most 30 is wanted')).toBeVisible();
	await write(form.getByLabel('length', { exact: true }), '9.5');
	await expect(form.getByText('at most 30 is wanted')).toBeHidden();
	await accessible(page);
	await record.getByRole('button', { name: /^Send this step/ }).click();
	await expect(record.getByText('200 OK')).toBeVisible();
	await saved(page);
	const file = await bench.file('tollhouse', 'collections/toll-house.yaml');
	expect(file).toContain('"@xsi:type": TicketPayment\n                ticket: TT-9\n                journeys: 1');
	expect(file).toMatch(/remark: null/);
	await page.keyboard.press('Escape');

	// a fault is expected: what came is shown as what it is, and is checked
	await stepButton(page, 'quote-toll', 'call').click();
	const quote = drawer(page, /^Step 1/);
	const quoted = quote.getByRole('region', { name: 'Form' });
	await write(quoted.getByLabel('length', { exact: true }), '29');
	await quoted.getByLabel('Choice in QuoteToll').selectOption('season');
	await quote.getByRole('button', { name: /^Send this step/ }).click();
	const fault = quote.getByRole('region', { name: 'Fault' });
	await expect(fault).toContainText('text is too long for Staithe Lock');
	await expect(fault).toContainText('<t:limit>18</t:limit>');
	await stepButton(page, 'quote-toll', 'call').press('4');
	const facet = quote.getByRole('list', { name: 'Suggested checks' });
	await facet.getByRole('button', { name: 'a fault is expected: Client' }).click();
	await quote.getByRole('button', { name: 'Remove check 1' }).click();
	await expect(quote.getByRole('combobox', { name: 'What check 1 holds against the definition' })).toHaveValue(
		'answer'
	);
	await saved(page);
	await stepButton(page, 'quote-toll', 'call').press('Escape');

	// the rest needs a number that there is
	for (const id of ['fetch-passage', 'fetch-receipt']) {
		await stepButton(page, id, 'call').click();
		await stepButton(page, id, 'call').press('1');
		const step = drawer(page, /^Step 1/);
		await write(step.getByRole('region', { name: 'Form' }).getByLabel('number', { exact: true }), 'LP-40119');
		await saved(page);
		await stepButton(page, id, 'call').press('Escape');
	}
	await page.getByRole('button', { name: 'Run all' }).click();
	await page.getByRole('link', { name: 'open the run sheet' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toContainText('6 passed');
	await expect(page.getByRole('heading', { level: 1 })).not.toContainText('failed');

	// and is read again from where it came: nothing is another one, and nothing is written over
	await page.goto(`${url}/collections?definition`);
	await page.getByRole('button', { name: 'read toll-house again' }).click();
	await expect(page.getByText(/6 operations called already: what you have stays as it is/)).toBeVisible();
	await expect(page.getByRole('table', { name: 'What has changed' })).toBeHidden();
});

test('form and envelope are in step, whichever is changed; what only the envelope holds stays in it', async ({
	page,
	bench
}) => {
	const url = await bench.project('instep');
	await page.goto(`${url}/collections/tolls#quote/summer`);
	const step = drawer(page, /^Step 1/);
	const form = step.getByRole('region', { name: 'Form' });
	const envelope = step.getByRole('textbox', { name: 'Envelope' });
	await expect(envelope).toContainText('<m:name>Marsh Marigold</m:name>');
	await write(form.getByLabel('name', { exact: true }), '{$env.berth} & co');
	await expect(envelope).toContainText('<m:name>{$env.berth} &amp; co</m:name>');
	// from the envelope into the form
	const text = (more: string) =>
		`<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><q:QuoteToll xmlns:q="urn:reedmere:tolls:types">${more}<q:lock>Mill Lock</q:lock><q:craft><q:name>{$env.berth}</q:name><q:kind>dinghy</q:kind><q:length>3.5</q:length></q:craft><q:season>winter</q:season></q:QuoteToll></e:Body></e:Envelope>`;
	await envelope.fill(text(''));
	await expect(form.getByLabel('kind', { exact: true })).toHaveValue('dinghy');
	await expect(form.getByLabel('name', { exact: true })).toHaveText('{$env.berth}');
	await saved(page);
	await expect.poll(() => bench.file('instep', 'collections/tolls.yaml')).toMatch(/kind: dinghy\n +length: 3.5/);
	// a comment has no place in the form: the envelope is kept, and the form still changes what it knows
	await envelope.fill(text('<!-- by hand -->'));
	await expect(
		step.getByText(/The envelope is kept as it is written: beside the form it holds a comment/)
	).toBeVisible();
	await form.getByLabel('kind', { exact: true }).selectOption('barge');
	await expect(envelope).toContainText('<!-- by hand -->');
	await expect(envelope).toContainText('<q:kind>barge</q:kind>');
	await saved(page);
	await expect.poll(() => bench.file('instep', 'collections/tolls.yaml')).toContain('<!-- by hand --><q:lock>');
	// what is broken is said, and can be sent on purpose
	await envelope.fill('<e:Envelope>');
	await expect(step.getByText(/The envelope cannot be read, so the form is empty/)).toBeVisible();
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText('500 Internal Server Error').first()).toBeVisible();
	await accessible(page);
});

test('a definition that is read anew says what is another one, and which steps call it', async ({ page, bench }) => {
	const url = await bench.project('anew');
	await page.goto(`${url}/collections`);
	await page.getByRole('button', { name: 'Import a definition' }).click();
	const file = (name: string, text: string) => ({ name, mimeType: 'text/xml', buffer: Buffer.from(text) });
	await page
		.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)')
		.setInputFiles([
			file('ledger.wsdl', demo('definitions/tolls/ledger.wsdl')),
			file('tolls.xsd', demo('definitions/tolls/tolls.xsd').replaceAll('name="direction"', 'name="bearing"'))
		]);
	await page.getByLabel('Name', { exact: true }).fill('tolls');
	await page.getByRole('button', { name: 'Look at it' }).click();
	const row = page.getByRole('row', { name: /TollLedger.RecordPassage SOAP 1.1/ });
	await expect(row).toContainText('RecordPassage/bearing is new; RecordPassage/direction is gone');
	await expect(row).toContainText('tolls/record/stranger, tolls/record/record');
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await expect(page.getByRole('heading', { level: 1, name: 'Tolls' })).toBeVisible();
	await stepButton(page, 'record', 'record').click();
	await expect(
		drawer(page, /^Step 2/)
			.getByText(/there is no element direction here/)
			.first()
	).toBeVisible();
});

test('samples on request, and an attachment that is saved', async ({ page, bench }) => {
	const url = await bench.project('samples');
	await page.goto(`${url}/collections/tolls#quote/winter`);
	const step = drawer(page, /^Step 2/);
	const form = step.getByRole('region', { name: 'Form' });
	await expect(form.getByLabel('reduction 1 attribute percent')).toHaveText('10');
	await step.getByRole('button', { name: 'the least' }).click();
	await expect(form.getByLabel('reduction 1 attribute percent')).toBeHidden();
	await expect(form.getByLabel('licence', { exact: true })).toBeHidden();
	await step.getByRole('button', { name: 'all there is' }).click();
	await expect(form.getByLabel('licence', { exact: true })).toHaveText('AA-000000');
	await form.getByRole('button', { name: 'Add reduction to QuoteToll' }).click();
	await expect(form.getByLabel('reduction 2 attribute percent')).toBeVisible();
	await form.getByRole('button', { name: 'Remove reduction 1' }).click();
	await form.getByLabel('Pick on').fill('2027-06-01');
	await expect(form.getByLabel('on', { exact: true })).toHaveText('2027-06-01');
	await step.getByRole('button', { name: 'some at random' }).click();
	await expect(step.getByText(/not fit the schema/)).toBeHidden();
	await page.goto(`${url}/collections/tolls#receipt/receipt`);
	const receipt = drawer(page, /^Step 1/);
	await receipt.getByRole('button', { name: /^Send this step/ }).click();
	const saving = page.waitForEvent('download');
	await receipt.getByRole('button', { name: 'Save receipt.txt' }).click();
	const text = readFileSync(await (await saving).path(), 'utf8');
	expect(text).toContain('Receipt for passage LP-40118');
	await expect(receipt.getByRole('tree')).toContainText('FetchReceiptResponse');
});

test('the form of all that a schema can say: types that stand in, passes of a choice, lists, nil', async ({
	page,
	bench
}) => {
	const yard = (path: string) => readFileSync(new URL(`../engine/definitions/${path}`, import.meta.url), 'utf8');
	const files = Object.fromEntries(
		['yard.wsdl', 'parts/ports.wsdl', 'parts/types.xsd', 'parts/shared.xsd'].map((path) => [
			`definitions/yard/${path}`,
			yard(path)
		])
	);
	const call = (id: string, operation: string) =>
		`      - { id: ${id}, send: POST /, body: { soap: { operation: ${operation}, version: "1.1", values: {} } } }\n`;
	const url = await bench.project('yard', {
		...files,
		'collections/yard.yaml': `heron: 1\nscenarios:\n  - id: s\n    steps:\n${call('all', 'Yard.Everything')}${call('crane', 'OldCrane.Lift')}${call('assign', 'Yard.Assign')}`
	});
	await page.goto(`${url}/collections/yard#s/all`);
	const step = drawer(page, /^Step 1/);
	const form = step.getByRole('region', { name: 'Form' });
	const envelope = step.getByRole('textbox', { name: 'Envelope' });
	await expect(step.getByText(/things do not fit the schema/)).toBeVisible();
	await step.getByRole('button', { name: 'all there is' }).click();
	await expect(step.getByText(/not fit the schema/)).toBeHidden();
	await form.getByLabel('Type of shape').selectOption('Square');
	await expect(form.getByLabel('side', { exact: true })).toHaveCount(2);
	await form.getByRole('button', { name: 'Add out to log' }).click();
	await expect(envelope).toContainText('<out>09:30:00</out>');
	await form.getByLabel('Choice in Everything').selectOption({ label: 'right, far' });
	await expect(envelope).toContainText('<right>2027-05-03</right>');
	await form.getByRole('button', { name: 'Make nil: any' }).press('Enter');
	// the end of a long envelope is not drawn
	await expect(form.getByRole('button', { name: 'Give any' })).toBeVisible();
	await expect(step.getByText(/not fit the schema/)).toBeHidden();
	await accessible(page);
	await stepButton(page, 's', 'all').press('Escape');
	await stepButton(page, 's', 'crane').click();
	const crane = drawer(page, /^Step 2/);
	await crane.getByRole('button', { name: 'the least' }).click();
	await crane.getByRole('button', { name: 'Add an item to weights' }).click();
	await write(crane.getByLabel('weights item 1', { exact: true }), '7');
	await expect(crane.getByRole('textbox', { name: 'Envelope' })).toContainText('<item xsi:type="xsd:int">7</item>');
	await stepButton(page, 's', 'crane').press('Escape');
	await stepButton(page, 's', 'assign').click();
	const assign = drawer(page, /^Step 3/);
	await assign.getByRole('button', { name: '+ header Session' }).click();
	await assign.getByLabel('Add to Assign').selectOption('Barge');
	await expect(assign.getByRole('textbox', { name: 'Envelope' })).toContainText('<m2:Barge>');
	await saved(page);
	await expect.poll(() => bench.file('yard', 'collections/yard.yaml')).toMatch(/headers:\n? *\{? *Session/);
});

test('what is no WSDL is refused in words', async ({ page, bench }) => {
	const url = await bench.project('nowsdl');
	await page.goto(`${url}/collections?definition`);
	const give = (text: string) =>
		page
			.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)')
			.setInputFiles([{ name: 'odd.wsdl', mimeType: 'text/xml', buffer: Buffer.from(text) }]);
	for (const [text, said] of [
		['<html></html>', /it is an HTML page/],
		['', /it is empty/],
		['<description xmlns="http://www.w3.org/ns/wsdl"/>', /it is WSDL 2.0/]
	] as const) {
		await give(text);
		await expect(page.getByRole('alert')).toContainText(said);
	}
	await page.getByLabel('Address of the definition').fill(`${bench.standin('mirror')}/status/404`);
	await page.getByRole('button', { name: 'Look at it' }).click();
	await expect(page.getByRole('alert')).toContainText('answers 404');
});

test('a connection says which of two definitions is meant', async ({ page, bench }) => {
	const url = await bench.project('two', { 'definitions/again.yaml': demo('definitions/moorings.yaml') });
	await page.goto(`${url}/connections/reedmere`);
	const choice = page.getByRole('combobox', { name: 'Definition of the connection' });
	await expect(choice).toHaveValue('');
	await choice.selectOption('again.yaml');
	await accessible(page);
	await saved(page);
	await expect.poll(() => bench.file('two', 'connections/reedmere.yaml')).toContain('definition: again.yaml');
});

test('an OpenAPI document is kept, suggests its check, and says what does not fit', async ({ page, bench }) => {
	const url = await bench.project('openapi');
	await page.goto(`${url}/collections?definition`);
	const text = demo('definitions/moorings.yaml').replaceAll('pencePerNight', 'pencePerWeek');
	await page
		.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)')
		.setInputFiles([{ name: 'moorings.yaml', mimeType: 'text/yaml', buffer: Buffer.from(text) }]);
	await expect(page.getByRole('status').filter({ hasText: 'held against the definition' })).toContainText(
		'19 operations'
	);
	await expect(page.getByRole('row', { name: /GET \/moorings\/\{id\} has changed, breaking/ })).toBeVisible();
	await expect(page.getByRole('row', { name: /GET \/moorings has changed/ })).toContainText(
		'bookings/book-a-mooring/free'
	);
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await expect(page.getByText('The definition is in the project.')).toBeVisible();
	await page.goto(`${url}/collections/bookings#book-a-mooring/free`);
	const step = drawer(page, /^Step 2/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await page.keyboard.press('4');
	await step.getByRole('button', { name: /it fits the contract/ }).click();
	await expect(step.getByText('GET /moorings of moorings.yaml')).toBeVisible();
	await expect(step.getByText(/must have required property 'pencePerWeek'/).first()).toBeVisible();
	await accessible(page);
	await saved(page);
	await expect.poll(() => bench.file('openapi', 'collections/bookings.yaml')).toContain('- contract: true');
});

test('a form of five thousand fields is drawn where it is looked at, and takes what is typed', async ({
	page,
	bench
}) => {
	const url = await bench.project('wide', wideDefinition(250, 20));
	await page.goto(`${url}/collections/wide#s/all`);
	const step = drawer(page, /^Step 1/);
	const form = step.getByRole('region', { name: 'Form' });
	await expect(form.getByLabel('field0', { exact: true }).first()).toBeVisible();
	// of five thousand those near the part in sight
	expect(await page.locator('.cm-editor').count()).toBeLessThan(200);
	await write(form.getByLabel('field0', { exact: true }).first(), 'the first one');
	const last = form.getByRole('button', { name: 'Fold part249' });
	await expect(async () => {
		await form.evaluate((node) => {
			let at: HTMLElement | null = node as HTMLElement;
			while (at && !/auto|scroll/.test(getComputedStyle(at).overflowY)) at = at.parentElement;
			at!.scrollTop = (node as HTMLElement).offsetTop + (node as HTMLElement).offsetHeight - at!.clientHeight;
		});
		await expect(last).toBeInViewport({ timeout: 300 });
	}).toPass();
	await write(form.getByLabel('field16', { exact: true }).last(), 'one of the last');
	await saved(page);
	const file = await bench.file('wide', 'collections/wide.yaml');
	expect(file).toMatch(/field0"?: ?"?the first one/);
	expect(file.slice(file.indexOf('part249'))).toContain('one of the last');
	// what was drawn before is as it was
	await page.keyboard.press('Escape');
	await page.reload();
	await expect(form.getByLabel('field0', { exact: true }).first()).toHaveText('the first one');
	expect(await page.locator('.cm-editor').count()).toBeLessThan(200);
});
