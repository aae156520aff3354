import { accessible, drawer, expect, saved, stepButton, test } from './fixtures.ts';
import { readFileSync } from 'node:fs';

const moorings = readFileSync(new URL('../../demo/reedmere/definitions/moorings.yaml', import.meta.url));
const nothing = ['bookings', 'gauges', 'first-look', 'first-contact', 'season', 'tolls'].map((name) => [
	`collections/${name}.yaml`,
	'heron: 1\nscenarios: []\n'
]);

test('an OpenAPI document becomes a collection of what was chosen, and is taken back in one step', async ({
	page,
	bench
}) => {
	const url = await bench.project('made', Object.fromEntries(nothing) as Record<string, string>);
	await page.goto(`${url}/collections?definition`);
	await page
		.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)')
		.setInputFiles([{ name: 'landing.yaml', mimeType: 'text/yaml', buffer: moorings }]);
	const offers = page.getByRole('group', { name: 'Scenarios to make' });
	await expect(page.getByText('11 of 11 scenarios chosen')).toBeVisible();
	// the demo has the same definition already
	await expect(page.getByText('definitions/moorings.yaml knows the same calls')).toBeVisible();
	await accessible(page);

	// a chain that is left out shows what it calls
	await offers.getByRole('checkbox', { name: /^Make Permits/ }).uncheck();
	await offers.getByRole('checkbox', { name: 'Make GET /permits/{id}' }).check();
	await page.getByRole('button', { name: 'take none', exact: true }).click();
	await expect(page.getByText('0 of 11 scenarios chosen')).toBeVisible();
	await page.getByLabel('Find among the scenarios').fill('moorings');
	await page.getByRole('button', { name: 'take these' }).click();
	await page.getByLabel('Find among the scenarios').fill('patch bookings');
	await page.getByRole('checkbox', { name: /^Make Bookings/ }).check();
	await expect(page.getByText('2 of 11 scenarios chosen')).toBeVisible();
	await page.getByRole('button', { name: 'Import', exact: true }).click();

	await expect(page).toHaveURL(/collections\/landing$/);
	await expect(page.getByText('2 scenarios made.')).toBeVisible();
	await expect(stepButton(page, 'moorings-found-and-read', 'read')).toBeVisible();
	await expect(stepButton(page, 'bookings-from-first-to-last', 'remove')).toBeVisible();
	await expect.poll(() => bench.file('made', 'collections/landing.yaml')).toContain('id: $.items[0].id');
	await expect.poll(() => bench.file('made', 'credentials/session.yaml')).toContain('{$secret.landingSession}');
	await expect.poll(() => bench.file('made', 'environments/local.yaml')).toContain('- landingSession');

	await page.getByRole('button', { name: 'undo' }).click();
	await expect(page).toHaveURL(/collections$/);
	await expect(page.getByRole('link', { name: /moorings/ })).toHaveCount(0);
	for (const path of ['collections/landing.yaml', 'credentials/session.yaml', 'definitions/landing.yaml'])
		await expect.poll(() => bench.file('made', path)).toBe('');
	expect(await bench.file('made', 'environments/local.yaml')).not.toContain('landingSession');
});

test('a second service whose file is called as all are takes the name of its title, and leaves the first one alone', async ({
	page,
	bench
}) => {
	const service = (title: string, path: string) =>
		JSON.stringify({
			...{ openapi: '3.0.3', info: { title, version: '1' }, servers: [{ url: 'http://127.0.0.1:9' }] },
			paths: { [path]: { get: { responses: { 200: { description: 'ok' } } } } }
		});
	const url = await bench.project('twoservices', { 'definitions/openapi.json': service('Lantern store', '/lanterns') });
	await page.goto(`${url}/collections?definition`);
	const files = page.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)');
	const given = (text: string) => ({ name: 'openapi.json', mimeType: 'application/json', buffer: Buffer.from(text) });
	await files.setInputFiles([given(service('Rope walk', '/ropes'))]);
	const name = page.getByRole('textbox', { name: 'Name', exact: true });
	await expect(name).toHaveValue('rope-walk');
	await expect(
		page.getByText('openapi.json is another service (Lantern store): this one is called rope-walk')
	).toBeVisible();
	// somebody who wants that name gets it, and is told what it means
	await name.fill('openapi');
	await page.getByRole('button', { name: 'Look at it' }).click();
	await expect(page.getByText('has been another service so far (Lantern store)')).toBeVisible();
	await expect(name).toHaveValue('openapi');
	await files.setInputFiles([]);
	await files.setInputFiles([given(service('Rope walk', '/ropes'))]);
	await expect(name).toHaveValue('rope-walk');
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await expect(page).toHaveURL(/collections\/rope-walk$/);
	expect(await bench.file('twoservices', 'definitions/openapi.json')).toContain('Lantern store');
	expect(await bench.file('twoservices', 'definitions/rope-walk.json')).toContain('Rope walk');
});

test('what was made is sent and is green at once', async ({ page, bench }) => {
	const url = await bench.project('atonce', {
		...(Object.fromEntries(nothing) as Record<string, string>),
		'definitions/moorings.yaml': '# it has another name now\n'
	});
	await page.goto(`${url}/collections?definition`);
	await page
		.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)')
		.setInputFiles([{ name: 'landing.yaml', mimeType: 'text/yaml', buffer: moorings }]);
	// the demo's own connection goes to the same place
	await expect(page.getByText('New: credentials/session.')).toBeVisible();
	await page.getByRole('button', { name: 'take none', exact: true }).click();
	await page.getByRole('checkbox', { name: /^Make Moorings/ }).check();
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('link', { name: /last run: 2 passed/ })).toBeVisible();
});

test('what is sent is held against the definition: before, and as a check that may want it wrong', async ({
	page,
	bench
}) => {
	const url = await bench.project('asked', {
		'collections/sheet.yaml':
			'heron: 1\ntitle: Sheet\nconnection: reedmere\nscenarios:\n  - id: s\n    title: One\n    steps:\n      - id: look\n        send: GET /moorings\n        query: { size: many }\n        checks:\n          - contract: true\n'
	});
	await page.goto(`${url}/collections/sheet#s/look`);
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: /as it will be sent/i }).click();
	const unfit = step.getByRole('list', { name: 'Not as its definition has it' });
	await expect(unfit).toContainText('query size must be integer');
	await page.keyboard.press('4');
	const side = step.getByRole('combobox', { name: 'What check 1 holds against the definition' });
	await expect(side).toHaveValue('answer');
	await side.selectOption('of the definition: the request fits');
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText(/query size must be integer/).first()).toBeVisible();
	// judged anew on the answer that is there
	const row = page.getByRole('button', { name: 'Checks of step 1' });
	await expect(row).toContainText('fails contract of the request');
	await side.selectOption('of the definition: the request is wrong on purpose');
	await expect(step.locator('[data-outcome=passed]')).toBeVisible();
	await accessible(page);
	await saved(page);
	await expect.poll(() => bench.file('asked', 'collections/sheet.yaml')).toMatch(/- contract:\n\s+request: false\n/);
});

test('steps that call what has changed are made to fit by a click, and all of it is undone in one', async ({
	page,
	bench
}) => {
	const url = await bench.project('moved', {
		'definitions/boats.yaml':
			'openapi: 3.1.0\ninfo: { title: Boats, version: "1" }\npaths:\n  /boats/{id}:\n    get:\n      operationId: boat\n      responses: { "200": { description: ok } }\n',
		'collections/sheet.yaml':
			'heron: 1\ntitle: Sheet\nconnection: reedmere\nscenarios:\n  - id: s\n    title: One\n    steps:\n      - id: look # the first one\n        send: GET /boats/7\n'
	});
	await page.goto(`${url}/collections`);
	await page.getByRole('button', { name: 'Import a definition' }).click();
	await page.getByLabel(/browser’s recording \(HAR\)$/).setInputFiles({
		name: 'boats.yaml',
		mimeType: 'application/yaml',
		buffer: Buffer.from(
			'openapi: 3.1.0\ninfo: { title: Boats, version: "2" }\npaths:\n  /fleet/{id}:\n    get:\n      operationId: boat\n      parameters: [{ in: query, name: lang, required: true, schema: { type: string }, example: en }]\n      responses: { "200": { description: ok } }\n'
		)
	});
	const fits = page.getByRole('group', { name: 'Steps that can be made to fit' });
	await expect(fits.getByRole('checkbox')).toHaveCount(2);
	await expect(fits).toContainText('sheet/s/look');
	await accessible(page);
	await fits.getByRole('button', { name: 'take all' }).click();
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await expect(page.getByText('The definition is in the project.')).toBeVisible();
	const sheet = () => bench.file('moved', 'collections/sheet.yaml');
	await expect.poll(sheet).toMatch(/- id: look # the first one\n\s+send: GET \/fleet\/7\n\s+query:\n?\s*\{? ?lang: en/);
	await page.getByRole('button', { name: 'Undo' }).click();
	await expect.poll(sheet).toContain('send: GET /boats/7\n');
	await expect.poll(() => bench.file('moved', 'definitions/boats.yaml')).toContain('/boats/{id}');
});
