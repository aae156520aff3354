import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { accessible, drawer, expect, saved, stepButton, test } from './fixtures.ts';

const collection = 'heron: 1\ntitle: Sheet\nconnection: mirror\nscenarios:\n  - id: s\n    title: One\n    steps:\n';
const step = '      - id: look\n        send: GET /echo\n';

test.beforeEach(async ({ context }) => context.grantPermissions(['clipboard-read', 'clipboard-write']));

/** As if the text had been copied somewhere else. */
async function paste(page: import('@playwright/test').Page, text: string) {
	await page.evaluate((given) => navigator.clipboard.writeText(given), text);
	await page.keyboard.press('Control+v');
}

test('a command of curl becomes a step; its secrets go into the vault under names that are asked for', async ({
	page,
	bench
}) => {
	const url = await bench.project('pasted', { 'collections/sheet.yaml': `${collection}${step}` });
	await page.goto(`${url}/collections/sheet`);
	await stepButton(page, 's', 'look').focus();
	await paste(
		page,
		`curl '${bench.standin('mirror')}/echo?lock=mill&n=2' -H 'Authorization: Bearer first-token-1' -H 'Content-Type: application/json' \\\n  --data-raw '{"boat":"Pike","nights":2}'`
	);
	const dialog = page.getByRole('dialog', { name: 'Paste a call' });
	await expect(dialog.getByText('POST /echo through mirror')).toBeVisible();
	await dialog.getByLabel('Name of the secret in header Authorization').fill('gate pass');
	await expect(dialog.getByRole('alert')).toContainText('"gate pass" cannot be a name');
	await dialog.getByLabel('Name of the secret in header Authorization').fill('gatePass');
	await accessible(page);
	await dialog.getByRole('button', { name: 'Make the step' }).click();

	await expect(page.getByText('1 step made; 1 secret put into the vault.')).toBeVisible();
	const made = drawer(page, /^Step 2/);
	await made.getByRole('button', { name: /^Send this step/ }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 2' })).toContainText('200');
	await saved(page);
	const text = await bench.file('pasted', 'collections/sheet.yaml');
	expect(text).toContain('Bearer {$secret.gatePass}');
	expect(text).toMatch(/boat: Pike\n\s+nights: 2/);
	expect(text).not.toContain('first-token-1');
	await expect.poll(() => bench.file('pasted', 'environments/local.yaml')).toContain('- gatePass');
	// one change, taken back in one press
	await page.keyboard.press('Escape');
	await page.keyboard.press('Control+z');
	await expect(stepButton(page, 's', 'step')).toHaveCount(0);
});

test('a secret of a pasted call keeps the name that suggested itself', async ({ page, bench }) => {
	const url = await bench.project('suggested', { 'collections/sheet.yaml': `${collection}${step}` });
	await page.goto(`${url}/collections/sheet`);
	await stepButton(page, 's', 'look').focus();
	await paste(page, `curl '${bench.standin('mirror')}/echo' -d user=avery --data-urlencode 'password=dig deep 4'`);
	const dialog = page.getByRole('dialog', { name: 'Paste a call' });
	await expect(dialog.getByLabel('Name of the secret in form password')).toHaveValue('mirrorPassword');
	await dialog.getByRole('button', { name: 'Make the step' }).click();
	const made = drawer(page, /^Step 2/);
	await made.getByRole('button', { name: /^Send this step/ }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 2' })).toContainText('200');
	await saved(page);
	expect(await bench.file('suggested', 'collections/sheet.yaml')).toContain('password: "{$secret.mirrorPassword}"');
});

test('a call is pasted in place of a path; a new place gets a connection', async ({ page, bench }) => {
	const url = await bench.project('replaced', { 'collections/sheet.yaml': `${collection}${step}` });
	await page.goto(`${url}/collections/sheet#s/look`);
	const open = drawer(page, /^Step 1/);
	await open.getByRole('textbox', { name: 'Path' }).click();
	await paste(page, `curl -X PUT http://127.0.0.1:9/boats/7 -d a=1`);
	const dialog = page.getByRole('dialog', { name: 'Paste a call' });
	await expect(dialog.getByText('PUT /boats/7 through 127-0-0-1, a new connection')).toBeVisible();
	await dialog.getByRole('button', { name: 'Make it this step' }).click();
	await expect(page.getByText('1 step made.')).toBeVisible();
	await saved(page);
	await expect
		.poll(() => bench.file('replaced', 'collections/sheet.yaml'))
		.toMatch(/send: PUT \/boats\/7\n(.*\n)*\s+connection: 127-0-0-1\n/);
	await expect.poll(() => bench.file('replaced', 'collections/sheet.yaml')).toContain('- id: look');
	await expect.poll(() => bench.file('replaced', 'connections/127-0-0-1.yaml')).toContain('base: http://127.0.0.1:9');
});

test('what cannot be read is said, and nothing is made', async ({ page, bench }) => {
	const url = await bench.project('unread', { 'collections/sheet.yaml': `${collection}${step}` });
	await page.goto(`${url}/collections/sheet`);
	await page.getByRole('button', { name: 'paste a call' }).click();
	const dialog = page.getByRole('dialog', { name: 'Paste a call' });
	await dialog.getByLabel('The call').fill("curl 'http://127.0.0.1:9/a");
	await expect(dialog.getByRole('alert')).toHaveText("the quote ' in line 1, column 6 is not closed");
	await dialog.getByLabel('The call').fill('some words');
	await expect(dialog.getByRole('alert')).toContainText('a command of curl is wanted');
	await expect(dialog.getByRole('button', { name: 'Make the step' })).toBeDisabled();
	await dialog.getByLabel('The call').fill('POST /echo HTTP/1.1\nHost: 127.0.0.1:9\nContent-Type: text/plain\n\nhello');
	await expect(dialog.getByText('POST /echo through 127-0-0-1, a new connection')).toBeVisible();
	await dialog.getByRole('button', { name: 'Leave it' }).click();
	await expect(dialog).toBeHidden();
	await expect.poll(() => bench.file('unread', 'collections/sheet.yaml')).toBe(`${collection}${step}`);
});

test('a call that was sent is copied as a command, which sends the same', async ({ page, bench }) => {
	const body = '        body: { json: { boat: "Pike\'s" } }\n        headers: { X-Key: "{$secret.ferryToken}" }\n';
	const url = await bench.project('copied', {
		'collections/sheet.yaml': `${collection}${step.replace('GET', 'POST')}${body}`
	});
	await page.goto(`${url}/collections/sheet#s/look`);
	const open = drawer(page, /^Step 1/);
	await open.getByRole('button', { name: /^Send this step/ }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 1' })).toContainText('200');
	await open.getByText(/^sent:/).click();
	await open.getByRole('button', { name: 'copy as curl' }).click();
	await expect(page.getByText('Copied. Set FERRY_TOKEN before you run it.')).toBeVisible();
	const command = await page.evaluate(() => navigator.clipboard.readText());
	const { stdout } = await promisify(execFile)('bash', ['-c', command], {
		env: { PATH: process.env.PATH, FERRY_TOKEN: 'tok-1' }
	});
	expect(stdout).toContain("Pike's");
	expect(stdout).toContain('tok-1');
	await open.getByRole('button', { name: 'as it will be sent' }).click();
	await open.getByRole('button', { name: 'for PowerShell' }).first().click();
	await expect.poll(() => page.evaluate(() => navigator.clipboard.readText())).toContain('curl.exe `\n');
});
