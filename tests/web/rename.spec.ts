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

test('a dataset is called otherwise, and what runs over it follows, with what is being edited', async ({
	page,
	bench
}) => {
	const url = await bench.project('called-rows', {
		'collections/one.yaml':
			'heron: 1\nscenarios:\n  - id: s\n    rows: { data: boats } # all of them\n    steps: [{ id: a, each: boats.csv, set: { x: 1 } }]\n',
		'datasets/boats.csv': 'name,length\nPike,9\n'
	});
	await page.goto(`${url}/datasets/boats.csv`);
	const name = page.getByRole('textbox', { name: 'Its name' });
	await name.fill('../boats');
	await name.press('Enter');
	await expect(page.getByText('"../boats" is not the name of a file')).toBeVisible();
	await page.getByRole('button', { name: 'Edit', exact: true }).click();
	await page.getByRole('textbox', { name: 'length, row 1', exact: true }).fill('11');
	await name.fill('small craft');
	await name.press('Enter');
	await expect(page).toHaveURL(/\/datasets\/small%20craft\.csv$/);
	await expect(page.getByText('boats is called small craft now, and 1 file that names it.')).toBeVisible();
	await accessible(page);
	expect(await bench.file('called-rows', 'datasets/small craft.csv')).toBe('name,length\nPike,11\n');
	expect(await bench.file('called-rows', 'collections/one.yaml')).toContain(
		'rows: { data: small craft } # all of them\n    steps: [{ id: a, each: small craft.csv,'
	);
	await page.getByRole('button', { name: 'undo' }).click();
	await expect(page).toHaveURL(/\/datasets\/boats\.csv$/);
	await expect(
		page
			.getByRole('cell', { name: '11' })
			.or(page.getByText('11', { exact: true }))
			.first()
	).toBeVisible();
	expect(await bench.file('called-rows', 'collections/one.yaml')).toContain('rows: { data: boats } # all of them');
});

test('an environment, with its secrets, where it is chosen; it is guarded, deleted and brought back', async ({
	page,
	bench
}) => {
	const url = await bench.project('called-there');
	const headers = { origin: bench.url };
	await page.request.put(`${bench.url}/api/projects/called-there/files/local.yaml`, {
		headers,
		data: { text: 'heron: 1\nenvironments: { local: { berth: Z-99 } }\n', revision: 0 }
	});
	await page.request.put(`${bench.url}/api/projects/called-there/secrets`, {
		headers,
		data: { environment: 'local', name: 'clerkPassword', value: 'of-local-alone' }
	});
	await page.goto(`${url}/values`);
	const head = (name: string) => page.getByRole('button', { name, exact: true });
	await expect(page.getByRole('button', { name: 'Secret clerkPassword in local: in the vault' })).toBeVisible();
	await head('local, chosen').click();
	const facts = page.getByRole('region', { name: 'The environment local' });
	await expect(facts).toContainText('chosen when none is named');
	await accessible(page);
	const name = page.getByRole('textbox', { name: 'Name of local' });
	for (const [wrong, why] of [
		['my machine', '"my machine" cannot be a name: letters, digits, _ and - can'],
		['Staging', 'there is environments/staging.yaml already']
	] as const) {
		await name.fill(wrong);
		await name.press('Enter');
		await expect(page.getByText(why)).toBeVisible();
		await expect(name).toHaveValue('local');
	}
	await name.fill('Harbour_2');
	await name.press('Enter');
	await expect(page.getByText(/^local is called Harbour_2 now, and \d+ files that name it\.$/)).toBeVisible();
	await expect(head('Harbour_2, chosen')).toBeVisible();
	await expect(page.getByRole('button', { name: 'Secret clerkPassword in Harbour_2: in the vault' })).toBeVisible();
	expect(await bench.file('called-there', 'heron.yaml')).toMatch(/^environment: Harbour_2$/m);
	expect(await bench.file('called-there', 'suites/smoke.yaml')).toMatch(/^environment: Harbour_2$/m);
	expect(await bench.file('called-there', 'environments/local.yaml')).toBe('');
	// the value of this machine came along
	await expect(page.getByRole('contentinfo')).toContainText('everything resolves');
	const resolved = await page.request.get(`${bench.url}/api/projects/called-there/resolve?environment=Harbour_2`);
	expect(((await resolved.json()) as { values: Record<string, string> }).values.berth).toBe('Z-99');
	// what is written next goes into the file by its new name
	await head('Harbour_2, chosen').click();
	await page.getByRole('checkbox', { name: /^real users live here/ }).check();
	await expect.poll(() => bench.file('called-there', 'environments/Harbour_2.yaml')).toContain('guarded: true');
	await expect(page.getByRole('contentinfo')).toContainText('real users live here');
	await page.keyboard.press('Control+z');
	await expect.poll(() => bench.file('called-there', 'environments/Harbour_2.yaml')).not.toContain('guarded');
	const before = await bench.file('called-there', 'environments/Harbour_2.yaml');
	await page.getByRole('button', { name: 'Delete Harbour_2…' }).click();
	await expect(page.getByText('Suites run in it: delete it?')).toBeVisible();
	await page.getByRole('button', { name: 'Delete Harbour_2', exact: true }).click();
	await expect(page.getByText('environments/Harbour_2.yaml is deleted.')).toBeVisible();
	await expect(page.getByRole('button', { name: /^Harbour_2/ })).toHaveCount(0);
	await expect(page.getByRole('combobox', { name: 'Environment', exact: true })).toHaveValue('development');
	await page.getByRole('button', { name: 'undo' }).last().click();
	await expect(head('Harbour_2, chosen')).toBeVisible();
	expect(await bench.file('called-there', 'environments/Harbour_2.yaml')).toBe(before);
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
