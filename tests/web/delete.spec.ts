import { accessible, expect, test } from './fixtures.ts';

for (const [what, path, at, name] of [
	['a collection with all its scenarios', 'collections/bookings.yaml', 'collections/bookings', 'Delete the collection'],
	['a suite', 'suites/nightly.yaml', 'suites', 'Delete Nightly'],
	['a dataset', 'datasets/refusals.csv', 'datasets/refusals.csv', 'Delete'],
	['a credential', 'credentials/warden.yaml', 'credentials/warden', 'Delete'],
	['any file on the page of its text', 'schemas/gauge.json', 'text/schemas/gauge.json', 'Delete']
] as const)
	test(`${what} is deleted when that was said twice, and brought back as it was`, async ({ page, bench }) => {
		const project = `deleted-${path.split('/')[0]}`;
		const url = await bench.project(project);
		const before = await bench.file(project, path);
		expect(before).not.toBe('');
		await page.goto(`${url}/${at}`);
		await page.getByRole('button', { name: `${name}…`, exact: true }).click();
		// Enter keeps it
		await expect(page.getByRole('button', { name: 'keep', exact: true }).first()).toBeFocused();
		await accessible(page);
		await page.keyboard.press('Enter');
		await page.getByRole('button', { name: `${name}…`, exact: true }).click();
		await page.getByRole('button', { name, exact: true }).click();
		await expect(page.getByText(`${path} is deleted.`)).toBeVisible();
		expect(await bench.file(project, path)).toBe('');
		await page.getByRole('button', { name: 'undo' }).last().click();
		await expect(page.getByRole('button', { name: `${name}…`, exact: true })).toBeVisible();
		expect(await bench.file(project, path)).toBe(before);
	});

test('a text that cannot be stored is not deleted with what is', async ({ page, bench }) => {
	const url = await bench.project('deleted-late');
	await page.goto(`${url}/text/suites/nightly.yaml`);
	const editor = page.locator('.cm-content');
	await editor.click();
	await page.keyboard.press('Control+End');
	await page.keyboard.type('# mine');
	const at = `${bench.url}/api/projects/deleted-late/files/suites/nightly.yaml`;
	const { revision } = (await (await page.request.get(at)).json()) as { revision: number };
	await page.request.put(at, { headers: { origin: bench.url }, data: { text: 'heron: 1\n# theirs\n', revision } });
	await page.getByRole('button', { name: 'Delete…' }).click();
	await page.getByRole('button', { name: 'Delete', exact: true }).click();
	await expect(page.getByText('It was changed elsewhere while you wrote.').first()).toBeVisible();
	expect(await bench.file('deleted-late', 'suites/nightly.yaml')).toContain('# theirs');
	await expect(editor).toContainText('# mine');
});

test('a collection is duplicated with its comments, and deleted, in the list', async ({ page, bench }) => {
	const url = await bench.project('listed', {
		'collections/aa.yaml':
			'heron: 1\n# why it is there\ntitle: Ahead\nscenarios:\n  - id: s # first\n    steps: [{ id: a, wait: 1 ms }]\n'
	});
	await page.goto(`${url}/collections`);
	const menu = page.getByRole('button', { name: 'More for Ahead', exact: true });
	await menu.click();
	await page.getByRole('button', { name: 'duplicate', exact: true }).click();
	await expect(page.getByRole('textbox', { name: 'Title of the collection' })).toHaveValue('Ahead, copy');
	const copied = await bench.file('listed', `collections/${page.url().split('/').at(-1)}.yaml`);
	expect(copied).toContain('# why it is there\ntitle: Ahead, copy');
	expect(copied).toContain('- id: s # first');
	await page.goto(`${url}/collections`);
	await menu.click();
	await page.getByRole('button', { name: 'Delete Ahead…' }).click();
	await expect(page.getByText('Delete it with 1 scenario?')).toBeVisible();
	await accessible(page);
	await page.getByRole('button', { name: 'Delete Ahead', exact: true }).click();
	await expect(page.getByText('collections/aa.yaml is deleted.')).toBeVisible();
	await expect(menu).toHaveCount(0);
	await page.getByRole('button', { name: 'undo' }).last().click();
	await expect(menu).toBeVisible();
});
