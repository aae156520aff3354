import { accessible, expect, test } from './fixtures.ts';

test('a file whose name has signs of addresses is opened, stored, deleted and brought back', async ({
	page,
	bench
}) => {
	const path = 'files/no #1? 100%.txt';
	const url = await bench.project('odd-files');
	const at = `${bench.url}/api/projects/odd-files/files/${path.split('/').map(encodeURIComponent).join('/')}`;
	await page.request.put(`${at}?revision=0`, {
		headers: { origin: bench.url, 'content-type': 'application/octet-stream' },
		data: 'as it was'
	});
	await page.goto(`${url}/files`);
	await page.getByRole('searchbox', { name: 'Files whose path says' }).fill('no #1');
	const row = page.getByRole('group', { name: path });
	await expect(row).toContainText('9 B');
	await row.getByRole('link', { name: 'no #1? 100%.txt', exact: true }).click();
	await expect(page.getByRole('heading', { level: 1, name: path })).toBeVisible();
	const editor = page.locator('.cm-content');
	await expect(editor).toHaveText('as it was');
	await editor.click();
	await page.keyboard.press('End');
	await page.keyboard.type(', and more');
	await page.getByRole('button', { name: /^Save/ }).click();
	const stored = async () => (await page.request.get(`${at}?raw`)).text();
	await expect.poll(stored).toBe('as it was, and more');
	await page.getByRole('button', { name: 'Delete…' }).click();
	await page.getByRole('button', { name: 'Delete', exact: true }).click();
	await expect(page.getByText(`${path} is deleted.`)).toBeVisible();
	await page.getByRole('button', { name: 'undo' }).last().click();
	await expect(editor).toHaveText('as it was, and more');
	expect(await stored()).toBe('as it was, and more');
});

test('all files of a project are listed, added, opened, deleted and brought back', async ({ page, bench }) => {
	const url = await bench.project('all-files');
	await page.goto(`${url}/collections`);
	await page.locator('summary').first().click();
	await page.getByRole('link', { name: 'Its files' }).click();
	await expect(page.getByRole('heading', { level: 1, name: 'Files' })).toBeVisible();
	await expect(page.getByRole('heading', { level: 2, name: /^baselines\/ 1 file$/ })).toBeAttached();
	await expect(page.getByRole('group', { name: 'heron.yaml', exact: true })).toContainText(/\d+ B/);
	await expect(page.getByRole('button', { name: 'Delete heron.yaml…' })).toHaveCount(0);
	await accessible(page);
	// bytes that no text has
	const bytes = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0, 255, 254]);
	await page.getByLabel('Folder of what is added').selectOption('files');
	await page.getByLabel('Add a file').setInputFiles({ name: 'permit scan.png', mimeType: 'image/png', buffer: bytes });
	await expect(page.getByText('files/permit-scan.png is in the project.')).toBeVisible();
	const search = page.getByRole('searchbox', { name: 'Files whose path says' });
	await search.fill('permit-scan');
	const row = page.getByRole('group', { name: 'files/permit-scan.png' });
	await expect(row).toContainText('7 B');
	const saved = page.waitForEvent('download');
	await row.getByRole('link', { name: 'Download files/permit-scan.png' }).click();
	expect((await saved).suggestedFilename()).toBe('permit-scan.png');
	await row.getByRole('link', { name: 'permit-scan.png', exact: true }).click();
	await expect(page.getByText('It is no text in UTF-8, and is kept as it is')).toBeVisible();
	await accessible(page);
	await page.getByRole('main').getByRole('link', { name: 'Files' }).click();
	await search.fill('permit-scan');
	await row.getByRole('button', { name: 'Delete files/permit-scan.png…' }).click();
	await accessible(page);
	await row.getByRole('button', { name: 'Delete files/permit-scan.png', exact: true }).click();
	await expect(page.getByText('files/permit-scan.png is deleted.')).toBeVisible();
	await expect(row).toHaveCount(0);
	await expect(page.getByText('No path says “permit-scan”.')).toBeVisible();
	await page.getByRole('button', { name: 'undo' }).last().click();
	await expect(row).toContainText('7 B');
	const back = await page.request.get(`${bench.url}/api/projects/all-files/files/files/permit-scan.png?raw`);
	expect([...(await back.body())]).toEqual([...bytes]);
	await search.fill('bookings');
	await page.getByRole('link', { name: 'bookings.yaml', exact: true }).click();
	await expect(page.getByRole('textbox', { name: 'Title of the collection' })).toHaveValue('Mooring bookings');
});
