import { accessible, expect, stepButton, test } from './fixtures.ts';

test('the first five minutes go along with what one does, hide nothing, and stay closed once they are', async ({
	page,
	bench
}) => {
	test.slow();
	const at = `${bench.url}/reedmere`;
	await page.goto(`${at}/collections`);
	const guide = page.getByRole('region', { name: 'The first five minutes' });
	await expect(guide).toContainText('1 of 7');
	await accessible(page);
	// it stands between the page and its foot
	const [box, main] = await Promise.all([guide.boundingBox(), page.locator('main').boundingBox()]);
	expect(box!.y).toBeGreaterThanOrEqual(main!.y + main!.height - 1);
	await guide.getByRole('link', { name: 'Go there' }).click();
	await expect(page).toHaveURL(/\/collections\/bookings$/);
	await expect(guide).toContainText('2 of 7');
	await page.getByRole('button', { name: 'Run this' }).first().click();
	await expect(guide).toContainText('3 of 7');
	await stepButton(page, 'book-a-mooring', 'book').click();
	await expect(guide).toContainText('4 of 7');
	await guide.getByRole('button', { name: 'next' }).click();
	await guide.getByRole('link', { name: 'Go there' }).click();
	await page.locator('a[data-run]').first().click();
	await expect(guide).toContainText('6 of 7');
	await page.getByLabel('Environment').selectOption('staging');
	await expect(guide).toContainText('7 of 7');
	// a page that is loaded anew goes on where one was
	await page.goto(`${at}/suites`);
	await expect(guide).toContainText('7 of 7');
	await page.getByRole('link', { name: 'the ready script' }).first().click();
	await expect(guide).toContainText('That is the way through');
	await guide.getByRole('button', { name: 'close the guide' }).click();
	await page.goto(`${at}/collections`);
	await expect(page.getByText('everything resolves')).toBeVisible();
	await expect(guide).toBeHidden();
	await page.keyboard.press('?');
	await page.getByRole('button', { name: 'show the first five minutes' }).click();
	await expect(guide).toContainText('1 of 7');
});
