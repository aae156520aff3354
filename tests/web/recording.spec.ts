import { mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { boats, useBoats, type Boats } from '../support/boats.ts';
import { accessible, expect, saved, test } from './fixtures.ts';

let service: Boats;
let dir: string;
test.beforeEach(async () => {
	service = await boats();
	dir = mkdtempSync(join(tmpdir(), 'heron-har-'));
});
test.afterEach(() => {
	service.close();
	rmSync(dir, { recursive: true, force: true });
});

/** What Chromium records while a page works with the service. */
async function recorded(browser: import('@playwright/test').Browser): Promise<string> {
	const path = join(dir, 'boats.har');
	const context = await browser.newContext({ recordHar: { path, content: 'embed' } });
	const page = await context.newPage();
	await page.goto(service.url);
	await page.evaluate(useBoats, '');
	await context.close();
	return path;
}

test('what a browser recorded becomes a collection that runs, with the values that went from call to call', async ({
	page,
	bench,
	browser
}) => {
	const har = await recorded(browser);
	const url = await bench.project('recorded');
	await page.goto(`${url}/collections`);
	await page.getByRole('button', { name: 'Import a definition' }).click();
	await page.getByLabel(/a browser’s recording/).setInputFiles(har);
	const dialog = page.getByRole('dialog', { name: 'From a recording' });
	await expect(dialog.getByRole('status')).toHaveText('5 of 7 calls taken');
	await expect(dialog.getByRole('checkbox', { name: 'Take GET /a.css' })).not.toBeChecked();
	const gifts = dialog.getByRole('list', { name: 'Values that go from call to call' });
	await expect(gifts).toContainText('$.id of postBoats');
	await expect(gifts).toContainText(
		'into the path of getBoats, the body $.boatId of postCrews, the path of deleteBoats'
	);
	await accessible(page);
	// what the service gave out is no secret, what was typed is
	await dialog.getByLabel('Name of the secret in body password').fill('boatsPassword');
	await dialog.getByRole('button', { name: 'Make 5 steps' }).click();

	await expect(page).toHaveURL(/\/collections\/boats$/);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByText('5 passed').first()).toBeVisible();
	// and what it saw is taken out as a definition
	await page.getByRole('link', { name: 'Runs' }).click();
	await page
		.getByRole('link', { name: /As it was recorded|boats/ })
		.first()
		.click();
	const download = page.waitForEvent('download');
	await page.getByRole('combobox', { name: 'Take the run out as' }).selectOption('OpenAPI');
	const given = await download;
	expect(given.suggestedFilename()).toMatch(/^run-\d+\.openapi\.json$/);
	const taken = readFileSync(await given.path(), 'utf8');
	expect(Object.keys((JSON.parse(taken) as { paths: object }).paths)).toEqual([
		'/sign-in',
		'/boats',
		'/boats/{boatId}',
		'/crews'
	]);
	expect(taken).not.toContain('pond-77');
	const text = await bench.file('recorded', 'collections/boats.yaml');
	expect(text).toContain('boatId: "{$steps.postBoats.id}"');
	expect(text).toContain('authorization: Bearer {$steps.postSignIn.accessToken}');
	expect(text).toContain('password: "{$secret.boatsPassword}"');
	expect(text).toContain('cleanup: true');
	expect(text).not.toContain('pond-77');
});

test('an import of a recording is taken back as a whole; a call and a value can be left out', async ({
	page,
	bench,
	browser
}) => {
	const har = await recorded(browser);
	const url = await bench.project('taken-back');
	await page.goto(`${url}/collections`);
	await page.getByRole('button', { name: 'Import a definition' }).click();
	await page.getByLabel(/a browser’s recording/).setInputFiles(har);
	const dialog = page.getByRole('dialog', { name: 'From a recording' });
	await dialog.getByRole('checkbox', { name: 'Take POST /api/v1/crews' }).uncheck();
	await dialog.getByRole('checkbox', { name: /^\$\.accessToken of postSignIn/ }).uncheck();
	await expect(dialog.getByLabel('Name of the secret in header authorization')).toBeVisible();
	await dialog.getByRole('button', { name: 'Make 4 steps' }).click();
	await expect(page).toHaveURL(/\/collections\/boats$/);
	const text = await bench.file('taken-back', 'collections/boats.yaml');
	expect(text).not.toContain('crews');
	expect(text).toMatch(/authorization: Bearer \{\$secret\.\w+\}/);
	await page.getByRole('button', { name: 'undo' }).click();
	await expect(page).toHaveURL(/\/collections$/);
	await expect.poll(() => bench.file('taken-back', 'collections/boats.yaml')).toBe('');
	await expect.poll(() => bench.file('taken-back', 'connections/127-0-0-1.yaml')).toBe('');
});

test('steps of a recording go into a scenario that is there; what cannot be read is told', async ({
	page,
	bench,
	browser
}) => {
	const har = await recorded(browser);
	const url = await bench.project('into', {
		'connections/boats.yaml': `heron: 1\nbase: ${service.url}/api/v1\n`,
		'collections/sheet.yaml':
			'heron: 1\ntitle: Sheet\nconnection: boats\nscenarios:\n  - { id: s, title: One, steps: [{ id: postBoats, send: GET / }] }\n'
	});
	await page.goto(`${url}/collections/sheet`);
	await page.getByRole('button', { name: 'paste a call' }).click();
	await page.getByLabel('A browser’s recording').setInputFiles(har);
	const dialog = page.getByRole('dialog', { name: 'From a recording' });
	await expect(dialog.getByText('become steps of the scenario “One”')).toBeVisible();
	await dialog.getByRole('button', { name: 'Make 5 steps' }).click();
	await expect(page.getByText('5 steps made.')).toBeVisible();
	await saved(page);
	const text = await bench.file('into', 'collections/sheet.yaml');
	expect(text).toMatch(/id: postBoats,[\s\S]*id: postBoats2,/);
	expect(text).toContain('boatId: "{$steps.postBoats2.id}"');
	expect(text).not.toContain('connection: 127');
	await page.getByRole('status', { name: 'Messages' }).getByRole('button', { name: 'undo' }).click();
	await saved(page);
	expect(await bench.file('into', 'collections/sheet.yaml')).not.toContain('postBoats2');

	truncateSync(har, 3000);
	await page.getByRole('button', { name: 'paste a call' }).click();
	await page.getByLabel('A browser’s recording').setInputFiles(har);
	await expect(dialog.getByRole('alert')).toContainText('this is no HTTP Archive (HAR 1.2): it is not JSON');
	await expect(dialog.getByRole('button', { name: 'Make the steps' })).toBeDisabled();
	await dialog.getByRole('button', { name: 'Stop' }).click();
	writeFileSync(har, '{"log":{"entries":[]}}');
	await page.getByRole('button', { name: 'paste a call' }).click();
	await page.getByLabel('A browser’s recording').setInputFiles(har);
	await expect(dialog.getByText('There is no call with an answer in it.')).toBeVisible();
});
