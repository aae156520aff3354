import { accessible, expect, saved, test, type Bench } from './fixtures.ts';
import type { APIRequestContext } from '@playwright/test';

const collection = (status: number, more = '') =>
	`heron: 1\ntitle: Locks\nconnection: reedmere\nscenarios:\n  - id: one\n    title: The lock is there\n    steps:\n      - { id: health, title: It is up, send: GET /health, checks: [{ status: 200 }] }\n      - { id: other, title: It says no, send: GET /health, checks: [{ status: ${status} }] }\n${more}`;
const suite = 'heron: 1\ntitle: Locks\nscenarios: [locks]\nenvironment: local\n';

async function run(request: APIRequestContext, bench: Bench, name: string): Promise<string> {
	const started = await request.post(`${bench.url}/api/projects/${name}/runs`, { data: { targets: ['night'] } });
	const { id } = (await started.json()) as { id: string };
	await expect
		.poll(
			async () =>
				((await (await request.get(`${bench.url}/api/runs/${id}`)).json()) as { run: { status: string } }).run.status
		)
		.toBe('done');
	return id;
}
async function change(request: APIRequestContext, bench: Bench, name: string, text: string): Promise<void> {
	const at = `${bench.url}/api/projects/${name}/files/collections/locks.yaml`;
	const { revision } = (await (await request.get(at)).json()) as { revision: number };
	expect((await request.put(at, { data: { text, revision } })).ok()).toBe(true);
}

test('a new failure: its run says since when, it is compared, looked up in its past, and put in quarantine', async ({
	page,
	bench
}) => {
	const url = await bench.project('gate', { 'collections/locks.yaml': collection(200), 'suites/night.yaml': suite });
	const good = await run(page.request, bench, 'gate');
	await change(page.request, bench, 'gate', collection(204));
	const bad = await run(page.request, bench, 'gate');

	await page.goto(`${url}/runs`);
	await expect(page.getByRole('img', { name: 'How the last 2 runs ended: 1 of them good' })).toBeVisible();
	await accessible(page);
	await page.getByLabel('Verdict').selectOption('the gate did not hold');
	await expect(page.getByRole('row', { name: /Locks/ })).toHaveCount(1);
	expect(page.url()).toContain('held=no');
	await page.getByRole('link', { name: 'Locks' }).click();

	await expect(page.getByText('The gate does not hold')).toBeVisible();
	const finding = page.getByRole('article');
	await expect(finding).toContainText('new: it passed in run 1');
	const strip = page.getByRole('table', { name: 'The last 2 runs, step by step' });
	await expect(strip.getByRole('link', { name: 'It says no, run 2: failed' })).toBeVisible();
	await expect(strip.getByRole('row', { name: /It says no/ })).toContainText('newly failing');
	await accessible(page);
	await strip.getByRole('link', { name: 'It says no, run 2: failed' }).focus();
	await page.keyboard.press('ArrowLeft');
	await expect(strip.getByRole('link', { name: 'It says no, run 1: passed' })).toBeFocused();
	await page.keyboard.press('Enter');
	await expect(page).toHaveURL(new RegExp(`${good}#locks/one/other`));
	await expect(page.getByRole('button', { name: /It says no/ })).toBeVisible();
	await page.goBack();

	await page.getByRole('link', { name: 'Compare' }).click();
	const failing = page.getByRole('region', { name: 'Newly failing' });
	await expect(failing).toContainText('status: expected 204, received 200');
	await expect(page.getByText('1 step is the same.')).toBeVisible();
	await accessible(page);
	await failing.getByRole('link', { name: 'It says no in run 2' }).click();
	await expect(page).toHaveURL(new RegExp(`${bad}#`));

	await finding.getByRole('link', { name: 'its past' }).click();
	await expect(page.getByText('1 of 2 times')).toBeVisible();
	await accessible(page);
	await page.goBack();

	await finding.getByRole('button', { name: 'put in quarantine…' }).click();
	const dialog = page.getByRole('dialog', { name: 'Put in quarantine' });
	await dialog.getByRole('button', { name: 'Put in quarantine' }).click();
	await expect(dialog).toContainText('say what is known of it');
	await accessible(page);
	await dialog.getByLabel(/this check alone/).check();
	await dialog.getByLabel('why').fill('The lock answers too well.');
	await dialog.getByLabel('who').fill('Office');
	await dialog.getByLabel('until').fill('2099-01-01');
	await dialog.getByRole('button', { name: 'Put in quarantine' }).click();
	await expect(dialog).toBeHidden();
	await expect.poll(() => bench.file('gate', 'quarantine.yaml')).toMatch(/step: other\s+checks:\s+- 1\s/);

	await page.getByRole('button', { name: 'Run all again' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Locks: 1 passed, 1 in quarantine');
	await expect(page.getByText('The gate holds')).toBeVisible();
	await expect(page.getByRole('article')).toContainText('until 2099-01-01: The lock answers too well.');

	await page.goto(`${url}/suites`);
	const list = page.getByRole('region', { name: 'Quarantine' });
	await list.getByLabel('Until, The lock is there').fill('2020-01-01');
	await expect(list).toContainText('has passed: it counts');
	await list.getByRole('button', { name: /^Take The lock is there out/ }).click();
	await expect(list).toContainText('Nothing is in quarantine.');
	await list.getByRole('button', { name: /^undo/ }).click();
	await expect(list.getByRole('link', { name: 'The lock is there' })).toBeVisible();
	await accessible(page);
});

test('findings with the same cause stand together', async ({ page, bench }) => {
	const more = ['two', 'three']
		.map(
			(id) =>
				`  - id: ${id}\n    title: ${id}\n    steps: [{ id: x, title: ${id} step, send: GET /health, checks: [{ status: 204 }] }]\n`
		)
		.join('');
	const url = await bench.project('alike', {
		'collections/locks.yaml': collection(204, more),
		'suites/night.yaml': suite
	});
	const id = await run(page.request, bench, 'alike');
	await page.goto(`${url}/runs/${id}`);
	await expect(page.getByRole('article')).toHaveCount(1);
	await page.getByRole('button', { name: 'and 2 more with the same cause' }).click();
	await expect(page.getByRole('article')).toHaveCount(3);
});

test('what a suite runs is added by its name', async ({ page, bench }) => {
	const url = await bench.project('adds');
	await page.goto(`${url}/suites`);
	const smoke = page.getByRole('region', { name: 'Suite Smoke' });
	const add = smoke.getByLabel('Add to Smoke');
	await add.fill('No such thing');
	await add.press('Enter');
	await expect(smoke.getByRole('alert')).toHaveText('nothing here is called “No such thing”');
	await add.fill('Mooring bookings');
	await add.press('Enter');
	await expect(smoke.getByRole('button', { name: 'Take out Mooring bookings', exact: true })).toBeVisible();
	await expect(smoke.getByRole('alert')).toBeHidden();
	await expect(add).toHaveValue('');
	await expect(add).toBeFocused();
	// one of the list that the browser opens: no key is pressed
	await add.evaluate((field: HTMLInputElement) => {
		field.value = 'all tagged harbour';
		field.dispatchEvent(new Event('input', { bubbles: true }));
	});
	await expect
		.poll(() => bench.file('adds', 'suites/smoke.yaml'))
		.toMatch(/scenarios: \[ ?\{ ?tag: smoke ?\}, bookings, \{ ?tag: harbour ?\} ?\]/);
	await smoke.getByRole('button', { name: 'Take out Mooring bookings', exact: true }).click();
	await expect.poll(() => bench.file('adds', 'suites/smoke.yaml')).not.toContain('bookings');
	await accessible(page);
});

test('a gate is written as sentences, and its suite becomes a script for a build system', async ({ page, bench }) => {
	const url = await bench.project('sentences', {
		'collections/locks.yaml': collection(200),
		'suites/night.yaml': suite
	});
	await page.goto(`${url}/suites`);
	await page.getByLabel('Tried again, Locks').fill('2');
	await page.getByLabel('Tried again, Locks').blur();
	const add = page.getByLabel('Add a condition to the gate of Locks');
	await add.selectOption('nothing fails that passed before');
	await add.selectOption('so many steps may pass on a later attempt only');
	await add.selectOption('nothing takes much longer than usual');
	await page.getByLabel('Times as long as usual, Locks').fill('2.5');
	await page.getByLabel('Times as long as usual, Locks').blur();
	await add.selectOption('enough of the definitions is touched');
	await page.getByLabel('Touched answers of a hundred, Locks').fill('60');
	await page.getByLabel('Touched answers of a hundred, Locks').blur();
	const more = page.getByLabel('More kinds that are to be touched, Locks');
	await more.selectOption('values beyond what schemas allow');
	await expect(page.getByLabel('Touched values beyond what schemas allow of a hundred, Locks')).toHaveValue('50');
	await expect(more.getByRole('option', { name: 'values beyond what schemas allow' })).toHaveCount(0);
	await saved(page);
	await accessible(page);
	await expect
		.poll(() => bench.file('sentences', 'suites/night.yaml'))
		.toMatch(
			/retries: 2[\s\S]*newFailures: 0[\s\S]*unsteady: 5[\s\S]*ratio: 2.5[\s\S]*operation: 80\s+answer: 60\s+beyond: 50/
		);
	await page.getByRole('button', { name: 'Do not ask that definitions are touched, Locks' }).click();
	await page.getByRole('button', { name: 'Do not ask that nothing fails anew, Locks' }).click();
	await expect(page.getByLabel('Steps that may fail, Locks')).toBeVisible();

	await page.getByRole('link', { name: 'Locks in a pipeline' }).click();
	const script = page.getByRole('region', { name: 'The script' });
	await expect(script).toContainText('heron run night');
	// the gate asks for earlier runs, so that the pipeline keeps them
	await expect(script).toContainText('--history history/runs.jsonl');
	await page.getByLabel('Agents').fill('3');
	await page.getByLabel('Agents').blur();
	await expect(script).toContainText('heron merge parts/*.json');
	await page.getByLabel('results come to a server').check();
	await expect(page.getByRole('status').filter({ hasText: 'leads nowhere from a build server' })).toBeVisible();
	await page.getByLabel('the server').fill('https://heron.reedmere.example');
	await expect(script).toContainText('--publish https://heron.reedmere.example');
	await accessible(page);
	const practice = page.getByRole('region', { name: 'Practice run' });
	await practice.getByRole('button', { name: 'Practise' }).click();
	await expect(practice).toContainText('exit code 0: the pipeline goes on', { timeout: 60_000 });
	await expect(practice).toContainText('which only this machine knows');
	await expect(practice.getByRole('button', { name: /^junit.xml/ })).toBeVisible();
	await accessible(page);
	const tokens = page.getByRole('region', { name: 'Tokens' });
	await tokens.getByLabel('Name of the token').fill('nightly builds');
	await tokens.getByRole('button', { name: 'Make a token' }).click();
	await expect(tokens.getByRole('status')).toContainText(/heron_[\w-]{43}/);
	await accessible(page);
	await tokens.getByRole('button', { name: 'it is kept' }).click();
	await expect(tokens).not.toContainText('heron_');
	await tokens.getByRole('button', { name: 'Revoke the token nightly builds' }).click();
	await tokens.getByRole('button', { name: 'Revoke it' }).click();
	await expect(tokens).toContainText('None yet.');
	const download = page.waitForEvent('download');
	await page.getByRole('combobox', { name: /^as/ }).selectOption({ label: 'a shell script, for any other' });
	await page.getByRole('button', { name: 'Download api-tests.sh' }).click();
	expect((await download).suggestedFilename()).toBe('api-tests.sh');
});

test('what was changed a moment ago is stored before a practice run goes by it', async ({ page, bench }) => {
	const url = await bench.project('moment', {
		'collections/locks.yaml': collection(200),
		'suites/night.yaml': suite
	});
	await page.goto(`${url}/suites`);
	const add = page.getByLabel('Add a condition to the gate of Locks');
	await expect(add).toBeVisible();
	// a server that takes its time to store
	await page.route('**/files/**', async (route) => {
		if (route.request().method() === 'PUT') await new Promise((resolve) => setTimeout(resolve, 4000));
		await route.fallback();
	});
	await add.selectOption('enough of the definitions is touched');
	await page.getByRole('link', { name: 'Locks in a pipeline' }).click();
	const practice = page.getByRole('region', { name: 'Practice run' });
	await practice.getByRole('button', { name: 'Practise' }).click();
	await expect(practice).toContainText('exit code 1: the gate stops it');
});
