import { accessible, expect, test } from './fixtures.ts';

test('a document is called otherwise, and all that names it follows; it is taken back', async ({ page, bench }) => {
	const url = await bench.project('called');
	await page.goto(`${url}/connections/reedmere`);
	const name = page.getByRole('textbox', { name: 'Its name' });
	await name.fill('A name');
	await name.press('Enter');
	await expect(page.getByText('"A name" cannot be a name: small letters, digits and - can')).toBeVisible();
	await expect(name).toHaveValue('reedmere');
	await name.fill('mirror');
	await name.press('Enter');
	await expect(page.getByText('there is connections/mirror.yaml already')).toBeVisible();
	await name.fill('waterways');
	await name.press('Enter');
	await expect(page).toHaveURL(/\/connections\/waterways$/);
	await expect(page.getByText(/^reedmere is called waterways now, and \d+ files that name it\.$/)).toBeVisible();
	await accessible(page);
	await expect.poll(() => bench.file('called', 'connections/reedmere.yaml')).toBe('');
	await expect.poll(() => bench.file('called', 'collections/bookings.yaml')).toMatch(/^connection: waterways/m);
	// what a file has besides values stays
	await expect
		.poll(() => bench.file('called', 'collections/bookings.yaml'))
		.toContain('# as definitions/moorings.yaml has it');
	expect((await page.request.get(`${bench.url}/api/projects/called`)).ok()).toBe(true);
	await page.getByRole('button', { name: 'undo' }).click();
	await expect(page).toHaveURL(/\/connections\/reedmere$/);
	await expect.poll(() => bench.file('called', 'connections/waterways.yaml')).toBe('');
	await expect.poll(() => bench.file('called', 'collections/bookings.yaml')).toMatch(/^connection: reedmere/m);
});

test('a collection and a suite, too', async ({ page, bench }) => {
	const url = await bench.project('called-too');
	await page.goto(`${url}/collections/bookings`);
	const name = page.getByRole('textbox', { name: 'Its name' });
	await name.fill('moorings');
	await name.press('Enter');
	await expect(page).toHaveURL(/\/collections\/moorings$/);
	await expect(page.getByRole('textbox', { name: 'Title of the collection' })).toHaveValue('Mooring bookings');
	expect(await bench.file('called-too', 'suites/nightly.yaml')).not.toMatch(/- bookings(\/|\s|$)/m);
	await page.goto(`${url}/suites`);
	const suite = page.getByRole('textbox', { name: /^Name of / }).first();
	const before = await suite.inputValue();
	await suite.fill('at-night');
	await suite.press('Enter');
	await expect(page.getByText(`${before} is called at-night now.`)).toBeVisible();
	await expect(page.getByRole('textbox', { name: /^Name of / }).first()).toHaveValue('at-night');
	await expect.poll(() => bench.file('called-too', `suites/${before}.yaml`)).toBe('');
	// what is edited next goes into the file by its new name
	await page.getByRole('textbox', { name: 'Title of the suite' }).first().fill('Every night');
	await expect.poll(() => bench.file('called-too', 'suites/at-night.yaml')).toContain('title: Every night');
});
