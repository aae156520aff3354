import { parse } from 'yaml';
import { accessible, drawer, expect, saved, stepButton, test, write, type Bench } from './fixtures.ts';
import { hostileServer } from '../support/hostile.ts';

const collection = (steps: string, more = '') =>
	`heron: 1\ntitle: Reading\nconnection: reedmere\nscenarios:\n  - id: look\n    title: Look\n    steps:\n${steps}${more}`;
const scenarios = async (bench: Bench, project: string) =>
	(
		parse(await bench.file(project, 'collections/reading.yaml')) as {
			scenarios: { steps: Record<string, unknown>[] }[];
		}
	).scenarios;

test('from a first answer to five checks, two kept values and a step that follows a link, without typing a path', async ({
	page,
	bench
}) => {
	const url = await bench.project('choose', {
		'collections/reading.yaml': collection(
			'      - id: list\n        title: All moorings\n        send: GET /moorings\n'
		)
	});
	await page.goto(`${url}/collections/reading#look/list`);
	const first = drawer(page, /^Step 1/);
	await first.getByRole('button', { name: /^Send this step/ }).click();
	await expect(first.getByRole('tree', { name: 'Body' })).toContainText('total');

	// several values at once become checks
	await first.getByRole('button', { name: 'Choose $.total' }).click();
	await first.getByRole('button', { name: 'Choose $.page' }).click({ modifiers: ['Control'] });
	await expect(first.getByText('2 values')).toBeVisible();
	await first.getByRole('button', { name: 'check these' }).click();
	const checks = first.getByRole('list', { name: 'Checks', exact: true });
	await expect(checks.getByRole('listitem')).toHaveCount(2);

	// what the answer suggests, tried at once on the answer that is here
	for (const name of [/^status 200/, /^Content-Type/, /^the shape of it/]) {
		await first.getByRole('list', { name: 'Suggested checks' }).getByRole('button', { name }).click();
	}
	await expect(checks.getByRole('listitem')).toHaveCount(5);
	await expect(checks).toContainText('it fits');
	await expect(first.getByText('tried on the answer that is here')).toBeVisible();

	// an expectation that is wrong shows before anything is sent again, and leads to its place
	await first.getByRole('textbox', { name: 'Expected by check 1' }).fill('7');
	await expect(checks.getByRole('listitem').first()).toContainText('received');
	await first.getByRole('button', { name: 'Show where check 1 looked' }).click();
	await expect(first.getByRole('treeitem').filter({ hasText: 'total' })).toHaveClass(/bg-chip-lit/);
	await accessible(page);

	// two values are kept, and a link is followed
	await first.getByRole('button', { name: 'Unfold 0' }).click();
	await first.getByRole('button', { name: 'Choose $.items[0].id' }).click();
	await first.getByRole('button', { name: 'Choose $.items[0].name' }).click({ modifiers: ['Control'] });
	await first.getByRole('button', { name: 'keep these' }).click();
	// what a selector gives is seen before anything is sent again
	await expect(first.getByRole('table', { name: 'Kept values' })).toContainText('"A-01"');
	await expect(first.getByRole('textbox', { name: 'Selector of name' })).toHaveValue('$.items[0].name');
	await saved(page);
	await first.getByRole('button', { name: 'Unfold links' }).first().click();
	await first.getByRole('button', { name: 'Choose $.items[0].links.self' }).click();
	await first.getByRole('button', { name: 'open as a step' }).click();
	await saved(page);
	const [look] = await scenarios(bench, 'choose');
	expect(look!.steps[0]).toMatchObject({
		keep: { id: '$.items[0].id', name: '$.items[0].name', link: '$.items[0].links.self' },
		checks: [
			{ body: '$.total', equals: 7 },
			{ body: '$.page', equals: 1 },
			{ status: 200 },
			{ header: 'Content-Type', contains: 'application/json' },
			{ schema: 'schemas/look-list.json' }
		]
	});
	expect(look!.steps[1]!.send).toBe('GET {$steps.list.link}');
	await page.keyboard.press('Escape');
	await page.getByRole('button', { name: /^Run this/ }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 2' })).toContainText('200');
	expect(JSON.parse(await bench.file('choose', 'schemas/look-list.json'))).toMatchObject({
		type: 'object',
		required: expect.arrayContaining(['items', 'total', 'page', 'size'])
	});
});

test('a link that goes from the host on is followed to wherever the environment is', async ({ page, bench }) => {
	const server = await hostileServer({
		v1(socket, request) {
			const body = request.startsWith('GET /v1/boats/7 ') ? '{"name": "Slow Tide"}' : '{"first": "/v1/boats/7"}';
			socket.end(
				`HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: ${body.length}\r\nConnection: close\r\n\r\n${body}`
			);
		}
	});
	const url = await bench.project('links', {
		'connections/reedmere.yaml': `heron: 1\ntitle: Boats\nbase: ${server.url}/v1\n`,
		'collections/reading.yaml': collection('      - id: list\n        title: All boats\n        send: GET /boats\n')
	});
	await page.goto(`${url}/collections/reading#look/list`);
	const first = drawer(page, /^Step 1/);
	await first.getByRole('button', { name: /^Send this step/ }).click();
	await first.getByRole('button', { name: 'Choose $.first' }).click();
	await first.getByRole('button', { name: 'open as a step' }).click();
	await saved(page);
	const [look] = await scenarios(bench, 'links');
	expect(look!.steps[0]).toMatchObject({ keep: { link: { from: '$.first', take: 'address' } } });
	expect(look!.steps[1]!.send).toBe('GET {$steps.list.link}');
	await page.keyboard.press('Escape');
	await page.getByRole('button', { name: /^Run this/ }).click();
	await page.getByRole('button', { name: 'Answer of step 2' }).click();
	await expect(drawer(page, /^Step 2/).getByRole('tree', { name: 'Body' })).toContainText('Slow Tide');
	await page.getByRole('button', { name: 'Kept by step 1' }).click();
	await expect(drawer(page, /^Step 1/).getByRole('combobox', { name: 'Which matches of link are kept' })).toHaveValue(
		'address'
	);
	await accessible(page);
	await server.close();
});

test('lists inside lists are tables that belong together, sorted, and copied as CSV', async ({
	page,
	bench,
	context
}) => {
	await context.grantPermissions(['clipboard-read', 'clipboard-write']);
	const url = await bench.project('tables');
	await page.goto(`${url}/collections/gauges#survey/gauges`);
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await step.getByRole('button', { name: 'tables' }).click();
	const items = step.getByRole('table', { name: 'Table items', exact: true });
	await expect(items.getByRole('row')).toHaveCount(4);
	await items.getByRole('button', { name: 'readings of row 2: 4' }).click();
	const readings = step.getByRole('table', { name: 'Table items readings' });
	await expect(readings.getByRole('row')).toHaveCount(5);
	await expect(step.getByText('of items G2')).toBeVisible();
	await readings.getByRole('button', { name: 'levelMetres', exact: true }).click();
	await readings
		.getByRole('button', { name: /^levelMetres/ })
		.first()
		.click();
	await expect(readings.getByRole('columnheader', { name: /levelMetres/ })).toHaveAttribute('aria-sort', 'descending');
	await expect(readings.getByRole('row').nth(1)).toContainText('1.76');
	await step.getByRole('button', { name: 'show all' }).click();
	await expect(readings.getByRole('row')).toHaveCount(13);
	await accessible(page);
	await step.getByRole('button', { name: 'copy as CSV' }).click();
	await expect(page.getByText('12 rows are copied as CSV.')).toBeVisible();
	const csv = await page.evaluate(() => navigator.clipboard.readText());
	expect(csv.split('\r\n')[0]).toBe('items of,at,levelMetres,flags');
	// a cell is one click from a check
	await readings.getByRole('button', { name: 'Check levelMetres of row 1: 2.06' }).click();
	await expect(step.getByRole('list', { name: 'Checks', exact: true })).toContainText('2.06');
});

test('a baseline is approved without what is another one each time, and differences are accepted', async ({
	page,
	bench
}) => {
	let n = 0;
	const server = await hostileServer({
		tide(socket) {
			n++;
			const body = JSON.stringify({
				id: `T-10${n}`,
				at: new Date(Date.UTC(2027, 4, 14, 10, n)).toISOString(),
				gates: [
					{ id: 'north', open: n < 3 },
					{ id: 'south', open: n < 3 }
				],
				note: 'ebb'
			});
			socket.end(
				`HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: ${body.length}\r\nConnection: close\r\n\r\n${body}`
			);
		}
	});
	const url = await bench.project('baseline', {
		'collections/reading.yaml': collection(
			`      - id: tide\n        title: The tide\n        send: GET ${server.url}/tide\n`
		)
	});
	await page.goto(`${url}/collections/reading#look/tide`);
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText('200 OK')).toBeVisible();
	await page.getByRole('button', { name: 'Checks of step 1' }).click();
	await step.getByRole('button', { name: 'approve as baseline' }).click();
	const baseline = step.getByRole('region', { name: 'Baseline' });
	await expect(baseline.getByText('This is the first answer')).toBeVisible();
	await baseline.getByRole('button', { name: 'Send once more and compare' }).click();
	const proposed = baseline.getByRole('list', { name: 'Proposed to be ignored' });
	await expect(proposed.getByRole('listitem')).toHaveCount(2);
	await expect(proposed).toContainText('$.ata time');
	await expect(proposed).toContainText('$.idan identifier');
	await accessible(page);
	await baseline.getByRole('button', { name: 'Approve this answer' }).click();
	await expect(step.getByRole('list', { name: 'Checks', exact: true })).toContainText('it is the same');
	await saved(page);
	expect(JSON.parse(await bench.file('baseline', 'baselines/look-tide.json'))).toMatchObject({
		note: 'ebb',
		gates: [{ open: true }, { open: true }]
	});

	// the third answer is another one: alike differences are accepted together
	await page.keyboard.press('Control+Enter');
	await expect(step.getByText('gates[0].open was true, is false')).toBeVisible();
	await step.getByRole('button', { name: 'look at the differences' }).click();
	await baseline.getByRole('button', { name: 'accept these 2' }).click();
	await expect(step.getByRole('list', { name: 'Checks', exact: true })).toContainText('it is the same');
	expect(JSON.parse(await bench.file('baseline', 'baselines/look-tide.json'))).toMatchObject({
		gates: [{ open: false }, { open: false }]
	});
	const [look] = await scenarios(bench, 'baseline');
	expect(look!.steps[0]!.checks).toEqual([{ baseline: 'look-tide', ignore: ['$.id', '$.at'] }]);
	await server.close();
});

test('an answer in XML is approved and accepted in the same way, its places told as XPaths', async ({
	page,
	bench
}) => {
	let n = 0;
	const server = await hostileServer({
		tide(socket) {
			n++;
			const at = new Date(Date.UTC(2027, 4, 14, 10, n)).toISOString();
			const open = n < 3 ? 'yes' : 'no';
			const body = `<t:tide xmlns:t="urn:tide" at="${at}">\n  <t:gate id="north"><t:open>${open}</t:open></t:gate>\n  <t:gate id="south"><t:open>${open}</t:open></t:gate>\n</t:tide>\n`;
			socket.end(
				`HTTP/1.1 200 OK\r\nContent-Type: application/xml\r\nContent-Length: ${body.length}\r\nConnection: close\r\n\r\n${body}`
			);
		}
	});
	const url = await bench.project('xmlbase', {
		'collections/reading.yaml': collection(
			`      - id: tide\n        title: The tide\n        send: GET ${server.url}/tide\n`
		)
	});
	await page.goto(`${url}/collections/reading#look/tide`);
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText('200 OK')).toBeVisible();
	await page.getByRole('button', { name: 'Checks of step 1' }).click();
	await expect(step.getByRole('button', { name: 'no @id of /tide/gate stands twice' })).toBeVisible();
	await step.getByRole('button', { name: 'approve as baseline' }).click();
	const baseline = step.getByRole('region', { name: 'Baseline' });
	await baseline.getByRole('button', { name: 'Send once more and compare' }).click();
	await expect(baseline.getByRole('list', { name: 'Proposed to be ignored' })).toContainText('/tide/@ata time');
	await baseline.getByRole('button', { name: 'Approve this answer' }).click();
	await expect(step.getByRole('list', { name: 'Checks', exact: true })).toContainText('it is the same');
	await saved(page);

	await page.keyboard.press('Control+Enter');
	await expect(step.getByText('/tide/gate[1]/open was "yes", is "no"').first()).toBeVisible();
	await step.getByRole('button', { name: 'Show where check 1 looked' }).click();
	await expect(step.getByRole('treeitem', { name: /^Choose \/tide\/gate\[1\]\/open/ })).toHaveClass(/bg-chip-lit/);
	await step.getByRole('button', { name: 'look at the differences' }).click();
	await baseline.getByRole('button', { name: 'accept these 2' }).click();
	await expect(step.getByRole('list', { name: 'Checks', exact: true })).toContainText('it is the same');
	const file = await bench.file('xmlbase', 'baselines/look-tide.xml');
	expect(file).toContain('<t:gate id="south"><t:open>no</t:open></t:gate>');
	// what was not accepted stands as it was approved
	expect(file).toContain('at="2027-05-14T10:02:00.000Z"');
	const [look] = await scenarios(bench, 'xmlbase');
	expect(look!.steps[0]!.checks).toEqual([{ baseline: 'look-tide', ignore: ['/tide/@at'] }]);
	await server.close();
});

test('what the form of a page hides is chosen in its tree, kept, and sent along', async ({ page, bench }) => {
	const sent: string[] = [];
	const form = '<!doctype html><title>Office</title><form><p>Name<input name=user><input name=csrf value=t-81></form>';
	const server = await hostileServer({
		login(socket, request) {
			sent.push(request);
			socket.end(
				`HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nContent-Length: ${form.length}\r\nConnection: close\r\n\r\n${form}`
			);
		}
	});
	const url = await bench.project('page', {
		'collections/reading.yaml': collection(
			`      - id: form\n        send: GET ${server.url}/login\n      - id: login\n        send: POST ${server.url}/login\n        body: { form: { csrf: "{$steps.form.csrf}" } }\n`
		)
	});
	await page.goto(`${url}/collections/reading#look/form`);
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText('200 OK')).toBeVisible();
	await step.getByRole('button', { name: 'tree', exact: true }).click();
	const value = '/html/body/form/p/input[2]/@value';
	await step.getByRole('searchbox', { name: 'Search in keys and values' }).fill('t-81');
	await step.getByRole('button', { name: `Choose ${value}` }).click();
	await step.getByRole('button', { name: 'keep this' }).click();
	await expect(step.getByRole('textbox', { name: 'Selector of csrf' })).toHaveValue('//input[@name="csrf"]/@value');
	await expect(step.getByRole('table', { name: 'Kept values' })).toContainText('"t-81"');
	await saved(page);
	await page.getByRole('button', { name: /^Run this/ }).click();
	await expect.poll(() => sent.at(-1)).toMatch(/^POST [\s\S]*\r\n\r\ncsrf=t-81$/);
	await server.close();
});

test('passes of a loop are leafed through; what changed is shown against the answer before', async ({
	page,
	bench
}) => {
	const url = await bench.project('loop');
	await page.goto(`${url}/collections/gauges#survey/basins`);
	const step = drawer(page, /^Step 4/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText(/^pass \d of 3$/)).toBeVisible();
	await expect(step.getByText('pass 3 of 3')).toBeVisible();
	await step.getByRole('button', { name: 'next pass' }).click();
	await expect(step.getByText('pass 1 of 3')).toBeVisible();
	await expect(stepButton(page, 'survey', 'basins')).toContainText('for each of 3 values');
	await step.getByRole('button', { name: 'what changed' }).click();
	await expect(step.getByText(/Nothing is different|There is no earlier answer|compared with/).first()).toBeVisible();
});

test('a scenario that is called shows its steps below the call; a script shows its log', async ({ page, bench }) => {
	const url = await bench.project('calls');
	await page.goto(`${url}/collections/gauges`);
	await page.getByRole('button', { name: 'Run all' }).click();
	const ledger = page.getByRole('group', { name: 'Ledger of Gauges and notices' });
	await expect(ledger.getByRole('button', { name: 'POST /sessions Open a session', exact: true })).toBeVisible();
	await expect(page.getByRole('link', { name: 'open the run sheet' })).toBeVisible();
	await stepButton(page, 'survey', 'rising').click();
	await expect(drawer(page, /^Step 3/).getByText(/last readings \[/)).toBeVisible();
	await accessible(page);
	await page.getByRole('link', { name: 'open the run sheet' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toContainText('passed');
	await page.getByRole('button', { name: /A booking is put up on the notice board/ }).click();
	await expect(page.getByText('↳')).toBeVisible();
});

test('clean-up runs after a stop, and what could not be cleaned up is listed', async ({ page, bench }) => {
	const log: string[] = [];
	const answer = (status: string) => `HTTP/1.1 ${status}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n`;
	const server = await hostileServer({
		make: (socket) => {
			log.push('make');
			socket.end(answer('201 Created'));
		},
		never: () => log.push('never'),
		undo: (socket) => {
			log.push('undo');
			socket.end(answer('500 Internal Server Error'));
		}
	});
	const url = await bench.project('stop', {
		'collections/reading.yaml': collection(
			`      - { id: make, send: 'POST ${server.url}/make' }\n      - { id: undo, send: 'DELETE ${server.url}/undo', cleanup: true, checks: [{ status: 204 }] }\n      - { id: wait, send: 'GET ${server.url}/never' }\n`
		)
	});
	await page.goto(`${url}/collections/reading`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect.poll(() => log).toEqual(['make', 'never']);
	await page.getByRole('button', { name: 'Stop', exact: true }).click();
	await expect.poll(() => log).toEqual(['make', 'never', 'undo']);
	await page.getByRole('link', { name: 'open the run sheet' }).click();
	await expect(page.getByRole('heading', { name: /Left behind/ })).toBeVisible();
	await expect(page.getByText(`DELETE ${server.url}/undo`).first()).toBeVisible();
	await server.close();
});

/** A PDF with a text on each page. */
function pdfOf(texts: string[], openapis = ''): string {
	const font = '<</Font<</F1<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>>>';
	const pages = texts.map((text, index) => {
		const content = `BT /F1 24 Tf 60 740 Td (${text}) Tj ET`;
		return `${10 + index} 0 obj <</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents ${50 + index} 0 R/Resources${font}>> endobj\n${50 + index} 0 obj <</Length ${content.length}>> stream\n${content}\nendstream endobj\n`;
	});
	const kids = texts.map((_, index) => `${10 + index} 0 R`).join(' ');
	return `%PDF-1.4\n1 0 obj <</Type/Catalog/Pages 2 0 R${openapis}>> endobj\n2 0 obj <</Type/Pages/Kids[${kids}]/Count ${texts.length}>> endobj\n${pages.join('')}trailer <</Root 1 0 R>>\n%%EOF\n`;
}

test('answers of all kinds are read for what they are, and a hostile one does no harm', async ({ page, bench }) => {
	const send = (type: string, body: string | Buffer) => (socket: import('node:net').Socket) => {
		const bytes = Buffer.from(body);
		socket.write(
			`HTTP/1.1 200 OK\r\nContent-Type: ${type}\r\nContent-Length: ${bytes.length}\r\nConnection: close\r\n\r\n`
		);
		socket.end(bytes);
	};
	const many = JSON.stringify({
		items: Array.from({ length: 120_000 }, (_, i) => ({ id: i, name: `berth ${i}`, basin: i % 2 ? 'Mill' : 'Upper' }))
	});
	const bodies: Record<string, [string, string | Buffer]> = {
		twice: ['application/json', '{"a":1,"a":2,"long":9007199254740993}'],
		xml: [
			'text/xml',
			'<m:list xmlns:m="urn:m"><m:berth no="4"><m:name>Sedge</m:name></m:berth><m:berth no="5"/></m:list>'
		],
		html: [
			'text/html',
			'<h1>Out of service</h1><script>document.title="taken"</script><img src="https://elsewhere.example/x.png">'
		],
		broken: ['application/json', '{"a": [1, 2'],
		bytes: ['application/octet-stream', Buffer.from([0, 1, 2, 3, 255, 0])],
		lines: ['application/x-ndjson', '{"n":1}\n{"n":2}\n'],
		pdf: [
			'application/pdf',
			pdfOf(['Navigation permit', 'Terms'], '/OpenAction<</S/JavaScript/JS(app.alert\\(1\\))>>')
		],
		noPdf: ['application/pdf', '%PDF-1.7\nnothing of the kind'],
		large: ['application/json', many]
	};
	const server = await hostileServer(
		Object.fromEntries(Object.entries(bodies).map(([name, [type, body]]) => [name, send(type, body)]))
	);
	const url = await bench.project('kinds', {
		'collections/reading.yaml': collection(
			Object.keys(bodies)
				.map((name) => `      - { id: ${name}, send: 'GET ${server.url}/${name}' }\n`)
				.join('')
		)
	});
	await page.goto(`${url}/collections/reading`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('link', { name: 'open the run sheet' })).toBeVisible();
	// the one before is closed: rows that are out of sight are not drawn
	const open = async (name: string, number: number) => {
		await page.keyboard.press('Escape');
		await stepButton(page, 'look', name).click();
		return drawer(page, new RegExp(`^Step ${number}`));
	};
	let step = await open('twice', 1);
	await expect(step.getByText('a key stands twice in one object')).toBeVisible();
	await expect(step.getByRole('tree', { name: 'Body' })).toContainText('9007199254740993');

	step = await open('xml', 2);
	await step.getByRole('button', { name: 'Unfold 0' }).click();
	await step.getByRole('button', { name: 'Choose /list/berth[1]/@no' }).click();
	await step.getByRole('button', { name: 'check this' }).click();
	await expect(step.getByRole('textbox', { name: 'Where check 1 looks' })).toHaveValue('/list/berth[1]/@no');
	await expect(step.getByRole('list', { name: 'Checks', exact: true })).toContainText('"4"');

	step = await open('html', 3);
	await expect(step.getByTitle('The page that the server sent, without scripts')).toHaveCount(0);
	await step.getByRole('button', { name: 'as a page' }).click();
	await expect(page.frameLocator('iframe').getByRole('heading', { name: 'Out of service' })).toBeVisible();
	expect(await page.title()).not.toBe('taken');

	step = await open('broken', 4);
	await expect(step.getByText(/the body is not JSON: it ends early/)).toBeVisible();
	step = await open('bytes', 5);
	await expect(step.getByRole('group', { name: 'Body as bytes' })).toContainText('00 01 02 03 ff 00');
	step = await open('lines', 6);
	await expect(step.getByRole('table', { name: 'Table of the answer' }).getByRole('row')).toHaveCount(3);

	// a document is drawn page by page, and nothing in it is carried out
	let asked = 0;
	page.on('dialog', (dialog) => (asked++, void dialog.dismiss()));
	step = await open('pdf', 7);
	await expect(step.getByRole('group', { name: 'Page 1' })).toContainText('Navigation permit');
	await step.getByRole('button', { name: 'Page after this one' }).click();
	await expect(step.getByText('page 2 of 2')).toBeVisible();
	await expect(step.getByRole('group', { name: 'Page 2' })).toContainText('Terms');
	const dark = await step.locator('canvas').evaluate((canvas: HTMLCanvasElement) => {
		const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
		return data.filter((value, index) => index % 4 === 0 && value < 100).length;
	});
	expect(dark).toBeGreaterThan(50);
	await accessible(page);
	step = await open('noPdf', 8);
	await expect(step.getByRole('alert')).toContainText('The document cannot be drawn: it is no PDF that can be read');
	expect(asked).toBe(0);

	// a large one: found by a search, and the page goes on answering
	step = await open('large', 9);
	await step.getByRole('button', { name: 'tree' }).click();
	await step.getByRole('searchbox', { name: 'Search in keys and values' }).fill('berth 119999');
	await expect(step.getByText('1 of 1')).toBeVisible();
	await expect(step.getByRole('treeitem').filter({ hasText: 'berth 119999' })).toBeVisible();
	await server.close();
});

test('an expectation is written as text, and slips are said in place', async ({ page, bench }) => {
	const url = await bench.project('text', {
		'collections/reading.yaml': collection(
			'      - id: health\n        send: GET /health\n        checks: [{ status: 200 }]\n'
		)
	});
	await page.goto(`${url}/collections/reading#look/health`);
	const step = drawer(page, /^Step 1/);
	await page.getByRole('button', { name: 'Checks of step 1' }).click();
	await step.getByRole('button', { name: 'as text' }).click();
	const field = step.getByRole('textbox', { name: 'Checks as text' });
	await field.fill('- status: 200\n- body: $.status\n  equals: ok\n  should: true\n- status 3');
	await expect(step.getByText(/a check is wanted/)).toBeVisible();
	await field.fill('- status: 200\n- body: $.status\n  equals: ok\n  should: true\n');
	await saved(page);
	await step.getByRole('button', { name: 'as sentences' }).click();
	await expect(step.getByRole('list', { name: 'Checks', exact: true }).getByRole('listitem')).toHaveCount(2);
	await expect(step.getByRole('checkbox', { name: /only should hold/ })).toBeChecked();

	// what is no check at all is said, and can go
	await step.getByRole('button', { name: 'as text' }).click();
	await field.fill('- status: 200\n- body: $.status\n  equals: ok\n  should: true\n-\n- oops\n');
	await step.getByRole('button', { name: 'as sentences' }).click();
	await expect(step.getByText(/this is "oops"/)).toBeVisible();
	await step.getByRole('button', { name: 'remove it' }).first().click();
	await step.getByRole('button', { name: 'remove it' }).click();
	await expect(step.getByRole('button', { name: 'remove it' })).toHaveCount(0);

	// off, with a reason and a last day
	await step.getByRole('checkbox', { name: 'Check 1 is on' }).uncheck();
	await step.getByRole('button', { name: 'More about check 1' }).click();
	await write(step.getByRole('textbox', { name: 'Why check 1 is off' }), 'fault 214');
	await step.getByLabel('Until when check 1 is off').fill('2099-05-31');
	await saved(page);
	const [look] = await scenarios(bench, 'text');
	expect(look!.steps[0]!.checks).toMatchObject([
		{ status: 200, off: { because: 'fault 214', until: '2099-05-31' } },
		{ should: true }
	]);
});

test('a token that a step keeps is hidden, and shown to who asks for it', async ({ page, bench }) => {
	const url = await bench.project('token', {
		'collections/reading.yaml': collection(
			'      - { id: enter, title: Sign in, send: POST /sessions, body: { json: { user: avery, password: lock-gate-9 } }, keep: { token: $.token, clerk: $.clerk } }\n' +
				'      - { id: use, title: Use it, send: GET /bookings, headers: { Authorization: "Bearer {$steps.enter.token}" } }\n'
		)
	});
	await page.goto(`${url}/collections/reading#look/enter`);
	const first = drawer(page, /^Step 1/);
	await first.getByRole('button', { name: /^Send this step/ }).click();
	await page.getByRole('button', { name: 'Kept by step 1' }).click();
	const kept = first.getByRole('table', { name: 'Kept values' });
	const value = kept.getByRole('status');
	await expect(value).toHaveText('hidden');
	await expect(kept).toContainText('avery');
	await expect(page.getByRole('button', { name: 'Kept by step 1' })).toContainText('‹enter.token›');
	await kept.getByRole('button', { name: 'Show token' }).click();
	await expect(value).toHaveText(/^[\w-]{20,}$/);
	await accessible(page);
	await kept.getByRole('button', { name: 'Hide token' }).click();
	await expect(value).toHaveText('hidden');

	// and so it is in a run
	await page.getByRole('button', { name: 'Run all' }).click();
	await page.getByRole('link', { name: 'open the run sheet' }).click();
	// the ledger names the scenario, too, and stays until the run sheet is there
	await expect(page.getByRole('heading', { level: 1 })).toContainText('2 passed');
	await page.getByRole('button', { name: /look/i }).first().click();
	await page.getByRole('button', { name: /POST \/v1\/sessions/ }).click();
	const list = page.getByLabel('Kept by Sign in');
	await expect(list.getByRole('status')).toHaveText('hidden');
	await list.getByRole('button', { name: 'Show token' }).click();
	await expect(list.getByRole('status')).toHaveText(/^[\w-]{20,}$/);
});

test('an answer of the documentation suggests checks, and its schema, before anything is sent', async ({
	page,
	bench
}) => {
	const url = await bench.project('sample', {
		'collections/reading.yaml': collection('      - { id: make, title: Make it, send: POST /bookings }\n')
	});
	await page.goto(`${url}/collections/reading#look/make`);
	const first = drawer(page, /^Step 1/);
	await page.getByRole('button', { name: 'Checks of step 1' }).click();
	await first.getByRole('button', { name: 'from a sample answer' }).click();
	const field = first.getByRole('textbox', { name: 'A sample answer' });
	await expect(field).toBeFocused();
	await field.fill('{"reference": ');
	await expect(first.getByRole('alert')).toContainText('its body is no JSON');
	await field.fill(
		'HTTP/1.1 201 Created\nContent-Type: application/json\n\n{"reference": "B-1001", "nights": 3, "lines": [{"pence": 450}]}'
	);
	const list = first.getByRole('list', { name: 'Suggested checks' });
	await expect(first.getByText('the sample suggests')).toBeVisible();
	await accessible(page);
	await list.getByRole('button', { name: /^status 201/ }).click();
	await list.getByRole('button', { name: /^the shape of it/ }).click();
	await saved(page);
	await expect
		.poll(() => bench.file('sample', 'collections/reading.yaml'))
		.toMatch(/status: 201[\s\S]*schema: schemas\/look-make\.json/);
	const schema = JSON.parse(await bench.file('sample', 'schemas/look-make.json')) as object;
	expect(schema).toMatchObject({ properties: { nights: { type: 'integer' }, lines: { type: 'array' } } });
	await first.getByRole('button', { name: 'without a sample' }).click();
	await expect(list).toHaveCount(0);
});
