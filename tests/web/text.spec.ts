import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { accessible, expect, test } from './fixtures.ts';

const LOCKS = `heron: 1
title: Locks
scenarios:
  - id: pass
    title: A passage
    steps:
      - id: ask
        title: Which locks are open
        send: GET /locks
        checks:
          - status: 200
      - id: enter
        send: POST /passages
`;

test('a file as text: keys are completed, slips are mended in their place, and the ledger’s row is beside it', async ({
	page,
	bench
}) => {
	const url = await bench.project('as-text', { 'collections/locks.yaml': LOCKS });
	await page.goto(`${url}/collections/locks`);
	await page.getByRole('button', { name: /POST \/passages/ }).click();
	// from the step to its lines
	await page.getByRole('link', { name: 'as text' }).click();
	const text = page.getByRole('textbox', { name: 'Text of collections/locks.yaml' });
	await expect(text).toBeFocused();
	const beside = page.getByRole('complementary', { name: 'In the ledger' });
	await expect(beside.locator('[aria-current="true"]')).toContainText('POST /passages');
	// a key by its first letters, a name of the project after it
	await page.keyboard.press('End');
	await page.keyboard.press('Enter');
	await page.keyboard.type('connec');
	await page.getByRole('option', { name: /^connection/ }).click();
	await page.keyboard.type('harb');
	await page.getByRole('option', { name: 'harbour' }).click();
	await expect(text).toContainText('connection: harbour');
	await expect(page.getByRole('list', { name: 'Problems' })).toBeHidden();
	// a slip is told where it is, and fixed by a press
	await page.keyboard.press('Enter');
	await page.keyboard.type('titel: Into the lock');
	const problems = page.getByRole('list', { name: 'Problems' });
	await expect(problems).toContainText('unknown key "titel": did you mean "title"?');
	await expect(page.locator('.cm-lintRange-error')).toHaveText('titel');
	await problems.getByRole('button', { name: 'write title' }).click();
	await expect(problems).toBeHidden();
	await accessible(page);
	await page.keyboard.press('Control+s');
	await expect(page.getByRole('status').filter({ hasText: 'the file as text' })).toBeVisible();
	await expect
		.poll(() => bench.file('as-text', 'collections/locks.yaml'))
		.toContain(
			'- id: enter\n        connection: harbour\n        title: Into the lock\n        send: POST /passages\n'
		);
	// found and folded
	await page.keyboard.press('Control+f');
	await page.getByPlaceholder('Find').pressSequentially('Which locks');
	await page.keyboard.press('Enter');
	await expect(page.locator('.cm-searchMatch-selected')).toHaveText('Which locks');
	await page.keyboard.press('Escape');
	await page.getByTitle('Fold line', { exact: true }).first().click();
	await expect(text).not.toContainText('Which locks are open');
});

test('what is written is stored when one goes elsewhere, and both sides stay when others wrote', async ({
	page,
	bench
}) => {
	const url = await bench.project('text-twice', { 'collections/locks.yaml': LOCKS });
	await page.goto(`${url}/text/collections/locks.yaml?line=2`);
	await expect(page.getByRole('textbox', { name: 'Text of collections/locks.yaml' })).toBeFocused();
	await page.keyboard.press('End');
	await page.keyboard.type(' of ours');
	await page.getByRole('link', { name: 'to its page' }).click();
	await expect(page.getByLabel('Title of the collection')).toHaveValue('Locks of ours');
	await page.goBack();
	const text = page.getByRole('textbox', { name: 'Text of collections/locks.yaml' });
	await expect(text).toContainText('Locks of ours');
	const file = `${bench.url}/api/projects/text-twice/files/collections/locks.yaml`;
	const { revision } = (await (await page.request.get(file)).json()) as { revision: number };
	await page.request.put(file, {
		data: { text: LOCKS.replace('A passage', 'Theirs'), revision },
		headers: { origin: bench.url }
	});
	await text.click();
	await page.keyboard.press('Control+Home');
	await page.keyboard.type('# mine');
	await page.keyboard.press('Enter');
	await page.keyboard.press('Control+s');
	await expect(page.getByRole('alert')).toContainText('It was changed elsewhere while you wrote');
	await expect(page.getByRole('region', { name: 'What is different' })).toContainText('title: Theirs');
	await page.getByRole('button', { name: 'take theirs' }).click();
	await expect(text).toContainText('title: Theirs');
	await expect(text).not.toContainText('# mine');
});

test('a new line is indented by what is above it, however long the file is', async ({ page, bench }) => {
	const steps = Array.from(
		{ length: 6000 },
		(_, index) => `      - id: lock-${index}\n        send: GET /locks/${index}\n`
	);
	const url = await bench.project('long-text', {
		'collections/locks.yaml': `heron: 1\ntitle: Locks\nscenarios:\n  - id: upriver\n    steps:\n${steps.join('')}      - id: last\n`
	});
	await page.goto(`${url}/text/collections/locks.yaml?line=12006`);
	const text = page.getByRole('textbox', { name: 'Text of collections/locks.yaml' });
	await expect(text).toBeFocused();
	const beside = page.getByRole('complementary', { name: 'In the ledger' });
	// a link to a line shows its step
	await expect(beside.locator('[aria-current="true"]')).toContainText('6001');
	await page.keyboard.press('End');
	await page.keyboard.press('Enter');
	await page.keyboard.type('send: GET /last');
	await expect(text).toContainText('send: GET /last');
	await expect(beside.locator('[aria-current="true"]')).toBeInViewport();
	await expect(beside).toContainText('5950 steps above');
	await page.keyboard.press('Control+s');
	await expect
		.poll(async () => (await bench.file('long-text', 'collections/locks.yaml')).slice(-60))
		.toMatch(/\n {6}- id: last\n {8}send: GET \/last\n$/);
});

test('of very many problems the first ones are told, and how many there are more', async ({ page, bench }) => {
	const url = await bench.project('many-slips', {
		'collections/locks.yaml': `heron: 1\ntitle: Locks\nscenarios:\n  - id: upriver\n    steps:\n${'      - send: GET /locks\n'.repeat(5000)}`
	});
	await page.goto(`${url}/text/collections/locks.yaml`);
	const problems = page.getByRole('list', { name: 'Problems' });
	await expect(problems.getByRole('listitem').last()).toHaveText(/^and 48\d\d more$/);
	await expect(problems.getByRole('listitem')).toHaveCount(201);
});

test('a merge that left both sides is told as one, and settled side by side', async ({ page, bench }) => {
	const dir = mkdtempSync(join(tmpdir(), 'heron-merge-'));
	const git = (...args: string[]) =>
		execFileSync('git', ['-C', dir, '-c', 'user.name=Avery', '-c', 'user.email=avery@reedmere.example', ...args], {
			stdio: 'ignore'
		});
	const file = join(dir, 'collections/locks.yaml');
	const commit = (text: string, message: string) => {
		writeFileSync(file, text);
		git('add', '-A');
		git('commit', '-q', '-m', message);
	};
	mkdirSync(join(dir, 'collections'));
	writeFileSync(join(dir, 'heron.yaml'), 'heron: 1\ntitle: Merged\n');
	try {
		git('init', '-q', '-b', 'main');
		commit(LOCKS, 'begin');
		git('checkout', '-q', '-b', 'longer');
		commit(LOCKS.replace('A passage', 'A longer passage'), 'longer');
		git('checkout', '-q', 'main');
		commit(LOCKS.replace('A passage', 'A short passage'), 'short');
		expect(() => git('merge', 'longer')).toThrow();
		await page.goto(`${bench.url}/projects`);
		await page.getByLabel('A project’s folder on this machine, as it is').fill(dir);
		await page.getByRole('button', { name: 'Open it' }).click();
		await expect(page.getByRole('region', { name: 'What is wrong in the files' })).toContainText(
			'both sides of a merge stand here, HEAD and longer'
		);
		// nothing that never saw both sides writes over them
		const at = `${bench.url}/api/projects/${new URL(page.url()).pathname.split('/')[1]}/files/collections/locks.yaml`;
		const { revision } = (await (await page.request.get(at)).json()) as { revision: number };
		const refused = await page.request.put(at, {
			data: { value: { heron: 1, scenarios: [] }, revision },
			headers: { origin: bench.url }
		});
		expect([refused.status(), await refused.text()]).toEqual([400, expect.stringContaining('mend its text first')]);
		const version = page.getByRole('region', { name: 'Version control' });
		await version.getByRole('button', { name: '1 file differs from the commit' }).click();
		await expect(version).toContainText('has to be settled before anything is committed');
		await version.getByRole('link', { name: 'choose in its text' }).click();
		const conflict = page.getByRole('listitem', { name: 'Conflict 1' });
		await expect(conflict.getByRole('region', { name: 'HEAD, conflict 1' })).toContainText('A short passage');
		await expect(conflict.getByRole('region', { name: 'longer, conflict 1' })).toContainText('A longer passage');
		await accessible(page);
		await conflict.getByRole('button', { name: 'Take longer' }).click();
		await expect(page.getByText('Nothing is wrong in this file.')).toBeVisible();
		await page.getByRole('button', { name: /^Save/ }).click();
		await expect.poll(() => readFileSync(file, 'utf8')).toBe(LOCKS.replace('A passage', 'A longer passage'));
		await page.getByRole('link', { name: 'Collections', exact: true }).click();
		await version.getByRole('button', { name: '1 file differs from the commit' }).click();
		await expect(version).toContainText('Its sides are settled');
	} finally {
		rmSync(dir, { recursive: true, force: true });
	}
});
