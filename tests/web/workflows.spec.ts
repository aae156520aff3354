import { unzipSync } from 'fflate';
import { readFileSync } from 'node:fs';
import { accessible, expect, test } from './fixtures.ts';

test('chosen scenarios go out as workflows, and come in elsewhere', async ({ page, bench }) => {
	const url = await bench.project('flows');
	await page.goto(`${url}/collections`);
	await page.getByRole('checkbox', { name: 'Choose all scenarios of Mooring bookings' }).check();
	const download = page.waitForEvent('download');
	await page.getByRole('button', { name: 'as workflows' }).click();
	const given = await download;
	expect(given.suggestedFilename()).toBe('flows-workflows.zip');
	await expect(page.getByText(/things of them have no equal there/)).toBeVisible();
	await accessible(page);
	const files = unzipSync(readFileSync(await given.path()));
	expect(Object.keys(files).sort()).toEqual(expect.arrayContaining(['moorings.yaml', 'workflows.arazzo.yaml']));
	const text = Buffer.from(files['workflows.arazzo.yaml']!).toString('utf8');
	expect(text).toContain('workflowId: bookings-book-a-mooring');

	await bench.project('flowed', { 'collections/sheet.yaml': 'heron: 1\nscenarios: []\n' });
	await page.goto(`${bench.url}/flowed/collections`);
	await page.getByRole('button', { name: 'Import a definition' }).click();
	await page
		.getByLabel(/a browser’s recording/)
		.setInputFiles(
			Object.entries(files).map(([name, bytes]) => ({ name, mimeType: 'text/yaml', buffer: Buffer.from(bytes) }))
		);
	await page.getByRole('textbox', { name: 'Name', exact: true }).fill('came');
	await page.getByRole('button', { name: 'Look at it' }).click();
	await expect(page.getByText(/scenarios will be made in the collection came/)).toBeVisible();
	await page.getByRole('button', { name: 'Import', exact: true }).click();
	await expect(page).toHaveURL(/\/flowed\/collections\/came$/);
	const made = await bench.file('flowed', 'collections/came.yaml');
	expect(made).toContain('id: book-a-mooring');
	expect(made).toContain('reference: "{$steps.book.reference}"');
	await page.getByRole('button', { name: 'undo' }).click();
	await expect(page).toHaveURL(/\/flowed\/collections$/);
	await expect.poll(() => bench.file('flowed', 'collections/came.yaml')).toBe('');
});
