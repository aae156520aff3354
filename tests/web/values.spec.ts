import { accessible, drawer, expect, saved, stepButton, test, write } from './fixtures.ts';

test.describe('the matrix', () => {
	test('a new variable is gone to, wherever its row comes to stand, and whatever was looked for', async ({
		page,
		bench
	}) => {
		const url = await bench.project('gone-to');
		await page.setViewportSize({ width: 1280, height: 500 });
		await page.goto(`${url}/values`);
		await expect(page.getByRole('button', { name: /^Secret clerkPassword/ }).first()).toBeVisible();
		for (const name of ['aaa', 'first', 'zzz']) {
			if (name === 'first') await page.getByRole('searchbox', { name: 'Search names and values' }).fill('berth');
			await page.getByRole('textbox', { name: 'Name of a new variable' }).fill(name);
			await page.getByRole('button', { name: 'Add a variable' }).click();
			const cell = page.getByRole('textbox', { name: `${name} in local` });
			await expect(cell).toBeFocused();
			await expect(cell).toBeInViewport();
			await page.keyboard.type('1');
			await page.keyboard.press('Escape');
		}
	});
	test('what the project’s own file says beside values is written above its column', async ({ page, bench }) => {
		const url = await bench.project('own-file');
		await page.goto(`${url}/values`);
		await page.getByRole('button', { name: 'project', exact: true }).click();
		await accessible(page);
		const title = page.getByRole('textbox', { name: 'Title of the project' });
		await title.fill('Waterways');
		await title.press('Enter');
		await expect.poll(() => bench.file('own-file', 'heron.yaml')).toMatch(/^title: Waterways$/m);
		await page.getByRole('checkbox', { name: /^calls bear a traceparent field/ }).uncheck();
		await expect.poll(() => bench.file('own-file', 'heron.yaml')).not.toMatch(/^trace:/m);
		await page.keyboard.press('Control+z');
		await expect.poll(() => bench.file('own-file', 'heron.yaml')).toMatch(/^trace: true/m);
		await expect(title).toHaveValue('Waterways');
		await page.getByRole('button', { name: 'add a prefix' }).click();
		await page.keyboard.type('g');
		await page.keyboard.press('Tab');
		await page.keyboard.type('urn:reedmere:gates');
		await page.keyboard.press('Enter');
		await expect.poll(() => bench.file('own-file', 'heron.yaml')).toContain('  g: urn:reedmere:gates');
		await page.getByRole('region', { name: 'The project' }).getByRole('link', { name: 'as text' }).click();
		await expect(page.getByRole('heading', { level: 1, name: 'heron.yaml' })).toBeVisible();
		await expect(page.getByRole('button', { name: 'Delete…' })).toHaveCount(0);
	});

	test('is worked by keyboard: move, write, fill a row, paste a block, take all of it back', async ({
		page,
		bench
	}) => {
		await page.goto(`${await bench.project('matrix')}/values`);
		const cell = (name: string, where: string) =>
			page.getByRole('textbox', { name: `${name} in ${where}`, exact: true });
		await cell('berth', 'local').click();
		await page.keyboard.press('ArrowDown');
		await expect(cell('clerk', 'local')).toBeFocused();
		await page.keyboard.press('ArrowRight');
		await expect(cell('clerk', 'production')).toBeFocused();
		await page.keyboard.type('rowan');
		await page.keyboard.press('Enter');
		await expect(cell('gatehouse', 'production')).toBeFocused();
		await saved(page);
		await expect.poll(() => bench.file('matrix', 'environments/production.yaml')).toContain('clerk: rowan');

		await cell('berth', 'local').fill('7');
		await page.keyboard.press('Control+Enter');
		await expect(cell('berth', 'staging')).toHaveValue('7');
		await expect.poll(() => bench.file('matrix', 'environments/staging.yaml')).toContain('berth: 7\n');

		await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
		await page.evaluate(() => navigator.clipboard.writeText('A-05\tB-05\r\n"ro\twan"\ttrue\r\n'));
		await cell('berth', 'development').click();
		await page.keyboard.press('Control+v');
		await expect(cell('berth', 'development')).toHaveValue('A-05');
		await expect(cell('berth', 'local')).toHaveValue('B-05');
		await expect(cell('clerk', 'local')).toHaveValue('true');
		await expect.poll(() => bench.file('matrix', 'environments/local.yaml')).toContain('clerk: true\n');
		await page.getByRole('button', { name: 'undo' }).last().click();
		await expect(cell('clerk', 'local')).toHaveValue('avery');
		await expect(cell('berth', 'development')).toHaveValue('7');
		await page.keyboard.press('Control+z');
		await expect(cell('berth', 'staging')).toHaveValue('B-07');
		await accessible(page);
	});

	test('a cell that becomes an expression completes names; Enter takes it and goes on, Escape leaves it', async ({
		page,
		bench
	}) => {
		const url = await bench.project('cells');
		await page.goto(`${url}/values`);
		await expect(page.getByText('everything resolves')).toBeVisible();
		const cell = page.getByRole('textbox', { name: 'berth in staging', exact: true });
		await cell.click();
		await page.keyboard.press('Control+a');
		await page.keyboard.type('{$env.cl');
		await expect(page.getByRole('option', { name: /\$env\.clerk/ })).toBeVisible();
		await accessible(page);
		await page.keyboard.press('Enter');
		await expect(cell).toHaveText('{$env.clerk}');
		await page.keyboard.type('-1');
		await page.keyboard.press('Enter');
		await expect(cell).toHaveValue('{$env.clerk}-1');
		await expect(page.getByRole('textbox', { name: 'clerk in staging', exact: true })).toBeFocused();
		// what is left with Escape is as it was
		await cell.click();
		await page.keyboard.press('End');
		await page.keyboard.type('0');
		await expect(cell).toHaveText('{$env.clerk}-10');
		await page.keyboard.press('Escape');
		await expect(cell).toHaveValue('{$env.clerk}-1');
		await expect(cell).toBeFocused();
		await saved(page);
		await expect.poll(() => bench.file('cells', 'environments/staging.yaml')).toContain('berth: "{$env.clerk}-1"');
	});

	test('a variable has types with fields that fit, and values of this machine that never leave', async ({
		page,
		bench
	}) => {
		const url = await bench.project('typed');
		await page.goto(`${url}/values`);
		// until then no name is known
		await expect(page.getByText('everything resolves')).toBeVisible();
		const cell = page.getByRole('textbox', { name: 'berth in local', exact: true });
		await cell.click();
		await page.keyboard.press('F2');
		const field = page.getByRole('textbox', { name: 'Value of berth in local', exact: true });
		await expect(field).toBeFocused();
		await field.press('Control+a');
		await page.keyboard.type('{$env.cl');
		await page.getByRole('option', { name: /\$env\.clerk/ }).click();
		await expect(cell).toHaveValue(/^\{\$env\.clerk/);
		const type = page.getByRole('combobox', { name: 'Type of berth in staging' });
		await type.selectOption('list');
		await page.getByRole('textbox', { name: 'Value of berth in staging, an item a line' }).fill('A-01\n7\ntrue');
		await page.getByRole('combobox', { name: 'Type of berth in development' }).selectOption('date');
		await page.getByLabel('Value of berth in development', { exact: true }).fill('2027-06-01');
		await page.getByRole('textbox', { name: 'Value of berth in production on this machine' }).fill('C-99');
		await expect(page.getByText('here C-99')).toBeVisible();
		await saved(page);
		await expect.poll(() => bench.file('typed', 'environments/staging.yaml')).toMatch(/berth:\s+- A-01\s+- 7\s+- true/);
		await expect.poll(() => bench.file('typed', 'environments/development.yaml')).toContain('berth: 2027-06-01');
		await accessible(page);

		await page.getByRole('combobox', { name: 'Environment', exact: true }).selectOption('production');
		await expect(page.getByRole('link', { name: '1 value of this machine' })).toBeVisible();
		await expect.poll(() => bench.file('typed', 'local.yaml')).toBe('');
		await page.goto(`${url}/values`);
		await page.getByRole('button', { name: 'berth: where it is used, its note' }).click();
		await page.getByRole('button', { name: 'Take the value of berth on this machine away in production' }).click();
		await expect(page.getByText('here C-99')).toHaveCount(0);
		await expect(page.getByRole('link', { name: '1 value of this machine' })).toHaveCount(0);
	});

	test('shows gaps, what differs, and what is looked for', async ({ page, bench }) => {
		const url = await bench.project('gaps', {
			'environments/staging.yaml': 'heron: 1\nvariables: { clerk: avery, reedmere: "http://127.0.0.1:1" }\n'
		});
		await page.goto(`${url}/values`);
		const rows = page.getByRole('button', { name: /: where it is used, its note/ });
		await page.getByLabel('Which rows are shown').selectOption('gaps');
		await expect(rows.first()).toContainText('berth');
		await expect(page.getByRole('button', { name: 'clerk: where' })).toHaveCount(0);
		await page.getByLabel('Which rows are shown').selectOption('differ');
		await page.getByLabel('Compare this environment').selectOption('local');
		await page.getByLabel('with this one').selectOption('staging');
		await expect(page.getByRole('button', { name: 'clerk: where' })).toHaveCount(0);
		await expect(page.getByRole('button', { name: 'berth: where' })).toBeVisible();
		await page.getByLabel('Which rows are shown').selectOption('all');
		await page.getByLabel('Search names and values').fill('signon');
		await expect(rows).toHaveCount(1);
		await expect(rows).toContainText('signOn');
	});

	test('says where a variable is used, and renames it everywhere after showing where', async ({ page, bench }) => {
		await page.goto(`${await bench.project('renames')}/values`);
		await page.getByRole('button', { name: 'clerk: where' }).click();
		await expect(page.getByText('used in 12 places')).toBeVisible();
		await page.getByLabel('Another name for clerk').fill('desk');
		await page.getByRole('button', { name: 'Rename…' }).click();
		await expect(page.getByText(/This changes/)).toContainText('collections/bookings.yaml');
		await page.getByRole('button', { name: 'Rename it everywhere' }).click();
		await expect(page.getByRole('textbox', { name: 'desk in local', exact: true })).toHaveValue('avery');
		await expect.poll(() => bench.file('renames', 'collections/bookings.yaml')).toContain('{ user: "{$env.desk}"');
		await expect.poll(() => bench.file('renames', 'environments/local.yaml')).toContain('desk: avery');
		// comments stay
		await expect
			.poll(() => bench.file('renames', 'collections/bookings.yaml'))
			.toContain('# The desk’s daily work'.replace('’', "'"));
		await page.getByRole('button', { name: 'undo' }).last().click();
		await expect(page.getByRole('textbox', { name: 'clerk in local', exact: true })).toHaveValue('avery');
		await accessible(page);
	});

	test('two thousand variables in twenty environments stay quick to go through', async ({ page, bench }) => {
		const variables = Object.fromEntries(Array.from({ length: 2000 }, (_, i) => [`v${i}`, i]));
		const files = Object.fromEntries(
			Array.from({ length: 20 }, (_, i) => [`environments/e${i}.yaml`, JSON.stringify({ heron: 1, variables })])
		);
		await page.goto(`${await bench.project('large', files)}/values`);
		await page.getByLabel('Search names and values').fill('v1999');
		const cell = page.getByRole('textbox', { name: 'v1999 in e0', exact: true });
		await expect(cell).toHaveValue('1999');
		await page.getByLabel('Search names and values').fill('');
		// what is out of sight is not drawn
		expect(await page.getByRole('textbox').count()).toBeLessThan(2000);
	});
});

test.describe('rows', () => {
	test('a list runs row by row: set aside, told apart, run again, kept', async ({ page, bench }) => {
		const url = await bench.project('rows');
		await page.goto(`${url}/collections/season#office-list`);
		const rows = page.getByRole('group', { name: /^Rows of Ten bookings/ });
		await expect(rows).toContainText('row 1 of 10');
		await rows.getByRole('button', { name: 'columns' }).click();
		await expect(page.getByText('semicolon between cells')).toBeVisible();
		await expect(page.getByRole('textbox', { name: 'Name of Berth code' })).toHaveValue('mooring');
		await accessible(page);

		// a step that is looked at has the row's values
		await rows.getByRole('button', { name: /^Next row/ }).click();
		await rows.getByRole('button', { name: /^Next row/ }).click();
		await rows.getByRole('button', { name: /^Next row/ }).click();
		await expect(rows).toContainText('row 4 of 10');
		await stepButton(page, 'office-list', 'book').click();
		await page.getByRole('button', { name: 'as it will be sent' }).click();
		await expect(page.getByRole('alert')).toContainText('$steps.signIn');
		// the waterline says which row that is, and changes it
		const foot = page.getByRole('contentinfo', { name: 'Where calls go' });
		await foot.getByRole('button', { name: 'rows: office-list.csv, 4 of 10' }).click();
		const piece = page.getByRole('region', { name: 'The row that is sent' });
		await expect(piece.getByRole('row', { name: /^mooring/ })).toContainText(/[A-Z]-\d\d/);
		await piece.getByRole('button', { name: 'Row after this one' }).click();
		await expect(foot.getByRole('button', { name: 'rows: office-list.csv, 5 of 10' })).toBeVisible();
		await expect(rows).toContainText('row 5 of 10');
		await accessible(page);
		await page.keyboard.press('Escape');

		await page
			.locator('#office-list')
			.getByRole('button', { name: /^Run this/ })
			.click();
		await page.getByRole('link', { name: 'open the run sheet' }).click();
		await expect(page.getByRole('heading', { level: 1 })).toContainText('2 steps failed');
		await expect(page.getByText('office-list.csv: 8 of 10 rows passed')).toBeVisible();
		await page.getByLabel('only those that did not pass').check();
		const failed = page.getByRole('button', { name: /^Row \d+, failed/ });
		await expect(failed).toHaveCount(2);
		await expect(failed.first()).toContainText('Z-99');
		await expect(page.getByRole('button', { name: /^Row \d+, passed/ })).toHaveCount(0);
		await accessible(page);

		const download = page.waitForEvent('download');
		await page.getByRole('link', { name: 'set aside as CSV' }).click();
		expect((await download).suggestedFilename()).toBe('run-1-office-list.aside.csv');
		await page.getByRole('button', { name: 'keep them as a dataset' }).click();
		await expect(page.getByText(/is in the project/)).toBeVisible();
		await expect.poll(() => bench.file('rows', 'datasets/office-list-set-aside-1.csv')).toContain('Z-99,Paper Lantern');

		await page.getByRole('button', { name: 'Run these 2 rows again' }).click();
		await expect(page.getByText('office-list.csv: 0 of 2 rows passed')).toBeVisible();
	});
	test('a dataset is seen as a table, and what is wrong with one is said', async ({ page, bench }) => {
		const url = await bench.project('data', {
			'datasets/ragged.csv': 'a,b\n1,2\n3\n',
			'datasets/odd.json': '{"items": [1]}'
		});
		await page.goto(`${url}/values`);
		await page.getByRole('link', { name: 'office-list.csv' }).click();
		await expect(page.getByText('10 rows, 4 columns')).toBeVisible();
		await expect(page.getByText('Lark; the younger')).toBeVisible();
		await accessible(page);
		await page.goto(`${url}/datasets/ragged.csv`);
		await expect(page.getByText('cannot be used: it has 1 cell, and there are 2 columns')).toBeVisible();
		await page.goto(`${url}/datasets/odd.json`);
		await expect(page.getByRole('alert')).toContainText('"items" in it would do');
	});
});

test('an environment that is guarded asks before anything changes there', async ({ page, bench }) => {
	await page.goto(`${await bench.project('guarded')}/collections/bookings`);
	await page.getByRole('combobox', { name: 'Environment' }).selectOption('production');
	const start = page.locator('#taken').getByRole('button', { name: /^Run this/ });
	await start.click();
	const dialog = page.getByRole('dialog', { name: 'This environment is guarded' });
	await expect(dialog).toContainText('production is guarded, and 5 calls may change something there');
	await expect(dialog).toContainText('bookings/taken › DELETE /bookings/{reference}');
	await accessible(page);
	await dialog.getByRole('button', { name: 'Do not send' }).click();
	await expect(dialog).toHaveCount(0);
	await expect(page.getByRole('link', { name: 'open the run sheet' })).toHaveCount(0);
	await start.click();
	await dialog.getByRole('button', { name: 'Send to real users' }).click();
	await expect(page.getByRole('link', { name: 'open the run sheet' })).toBeVisible();
});

test('what is seldom meant is noted on the step, and mended by a click', async ({ page, bench }) => {
	const url = await bench.project('notes', {
		'collections/odd.yaml':
			'heron: 1\nconnection: reedmere\nscenarios:\n  - id: s\n    steps:\n      - id: a\n        send: GET /moorings//x?size=5\n        query: { size: 5 }\n        checks: [{ status: 200 }]\n'
	});
	await page.goto(`${url}/collections/odd`);
	await expect(page.getByText('two slashes in a row in the path')).toBeVisible();
	await expect(page.getByText('and 1 more')).toBeVisible();
	await page.getByRole('button', { name: 'write one, step 1' }).click();
	await page.getByRole('button', { name: 'take it out of the table, step 1' }).click();
	await expect(page.getByText(/^note/)).toHaveCount(0);
	await expect
		.poll(() => bench.file('notes', 'collections/odd.yaml'))
		.toContain('send: GET /moorings/x?size=5\n        checks');
	await page.keyboard.press('Control+z');
	await page.keyboard.press('Control+z');
	await expect(page.getByText('two slashes in a row in the path')).toBeVisible();
});

test('a secret in plain is moved into the vault, and a comparison takes the type of the last answer', async ({
	page,
	bench
}) => {
	const url = await bench.project('slips', {
		// no definition knows the call
		'definitions/moorings.yaml': '{}\n',
		'collections/odd.yaml':
			'heron: 1\nconnection: reedmere\nscenarios:\n  - id: s\n    steps:\n      - id: a\n        send: GET /moorings\n        headers: { X-API-Key: hunter-2-hunter }\n        checks: [{ body: "$.items[0].lengthMetres", equals: "12" }, { body: "$.items[?@.lengthMetres > \'5\'].code", present: true }]\n'
	});
	await page.goto(`${url}/collections/odd`);
	await page.getByRole('button', { name: 'move it into the vault, step 1' }).click();
	await expect(page.getByText('XAPIKey is in the vault')).toBeVisible();
	await expect.poll(() => bench.file('slips', 'collections/odd.yaml')).toContain('{$secret.XAPIKey}');
	await expect.poll(() => bench.file('slips', 'environments/local.yaml')).toContain('XAPIKey');
	await stepButton(page, 's', 'a').click();
	await page.keyboard.press('Control+Enter');
	await expect(page.getByText('is a number in the last answer, and is compared with a text')).toHaveCount(2);
	await page.getByRole('button', { name: 'compare it with a number' }).first().click();
	await page.getByRole('button', { name: 'compare it with a number' }).click();
	await expect.poll(() => bench.file('slips', 'collections/odd.yaml')).toContain('equals: 12');
	await expect.poll(() => bench.file('slips', 'collections/odd.yaml')).toContain('$.items[?@.lengthMetres > 5].code');
	await accessible(page);
});

test('what a definition knows of a name is told before anything is sent, and mended by a click', async ({
	page,
	bench
}) => {
	const url = await bench.project('known', {
		'collections/odd.yaml':
			'heron: 1\nconnection: reedmere\nscenarios:\n  - id: s\n    steps:\n      - id: a\n        send: GET /moorings/{id}\n        path: { id: A-01 }\n        checks: [{ body: "$.lengthMetres", equals: "12" }]\n'
	});
	await page.goto(`${url}/collections/odd`);
	await expect(page.getByText('lengthMetres is a number in the definition, and is compared with a text')).toBeVisible();
	await page.getByRole('button', { name: 'compare it with a number, step 1' }).click();
	await expect.poll(() => bench.file('known', 'collections/odd.yaml')).toContain('equals: 12');
	await expect(page.getByText(/is compared with a text/)).toHaveCount(0);
	// after an answer it is not told twice
	await page.keyboard.press('Control+z');
	await expect(page.getByText(/is compared with a text/)).toHaveCount(1);
	await stepButton(page, 's', 'a').click();
	await page.keyboard.press('Control+Enter');
	await expect(drawer(page, /^Step 1/).getByText('200 OK')).toBeVisible();
	await expect(page.getByText(/is compared with a text/)).toHaveCount(1);
	await accessible(page);
});

test('expressions complete names and functions, say what they give on hover, and can be tried', async ({
	page,
	bench
}) => {
	const url = await bench.project('tries');
	await page.goto(`${url}/values`);
	const field = page.getByRole('textbox', { name: 'An expression to try' });
	await field.click();
	await field.pressSequentially('$upperc');
	await page.getByRole('option', { name: '$uppercase(text)' }).click();
	await field.pressSequentially('$env.cl');
	await page.getByRole('option', { name: /\$env\.clerk/ }).click();
	await field.pressSequentially(')');
	const result = page.getByRole('status', { name: 'What it gives' });
	await expect(result).toContainText('"AVERY"');
	await expect(result).toContainText('string');
	await field.press('Control+a');
	await field.pressSequentially('$env.nobody');
	await expect(result).toContainText('$env.nobody is not set');
	await field.press('Control+a');
	await field.pressSequentially('$secret.clerkPassword');
	await expect(result).toContainText('‹clerkPassword›');

	await page.goto(`${url}/collections/season#refusals/book`);
	const body = page.getByRole('textbox', { name: /body/i }).first();
	await body.click();
	await body.press('Control+a');
	await body.pressSequentially('"{$row.moo');
	await page.getByRole('option', { name: /\$row\.mooring/ }).click();
	await expect(body).toContainText('{$row.mooring}');
	await body.getByText('{$row.mooring}').hover();
	await expect(page.getByText('$row.mooring = "A-01"')).toBeVisible();
});

test('a rehearsal shows what would be sent, which values were filled in and where they are from', async ({
	page,
	bench
}) => {
	const url = await bench.project('rehearsal', {
		'collections/odd.yaml':
			'heron: 1\nconnection: reedmere\nscenarios:\n  - id: s\n    title: Odd\n    steps:\n      - { id: a, send: "GET /x/{$env.nowhere}" }\n      - { id: b, send: "GET /x/{$env.clerk}" }\n'
	});
	await page.goto(`${url}/collections/season`);
	await page.getByRole('button', { name: 'More for What the desk refuses' }).click();
	await page.getByRole('link', { name: 'rehearse: show what would be sent' }).click();
	await expect(page.getByText('10 steps, nothing was sent')).toBeVisible();
	await expect(page.getByRole('heading', { level: 2 })).toHaveCount(5);
	await page
		.getByRole('button', { name: /^It is refused/ })
		.nth(1)
		.click();
	const wire = page.getByRole('region', { name: /as it will be sent$/ });
	await expect(wire.locator('pre mark')).toHaveText(['A-01', 'Slow Tide', '2027-08-01', '0']);
	await expect(wire.locator('pre mark').last()).toHaveAttribute('title', '{$row.nights}\nrow 2: column nights');
	await expect(wire).toContainText('step signIn, which keeps $.token as token');
	await accessible(page);

	await page.goto(`${url}/rehearsal?of=odd`);
	await page.getByRole('button', { name: '1 cannot be sent' }).click();
	await expect(page.getByText('$env.nowhere is not set')).toBeVisible();
	await expect(page.getByText('/v1/x/avery')).toHaveCount(0);
	await page.getByRole('button', { name: '1 cannot be sent' }).click();
	await expect(page.getByText('/v1/x/avery')).toBeVisible();
	await page.goto(`${url}/rehearsal?of=odd/none`);
	await expect(page.getByRole('alert')).toContainText('there is no suite, collection or collection/scenario');
});

test.describe('datasets are made', () => {
	test('of kinds and of a JSON Schema, the same for the same seed', async ({ page, bench }) => {
		const url = await bench.project('made');
		await page.goto(`${url}/values`);
		await page.getByRole('link', { name: 'make one' }).click();
		const first = page.getByRole('table', { name: 'The first rows' });
		await page.getByLabel('Seed').fill('7');
		await expect(first.getByRole('row')).toHaveCount(9);
		await page.getByRole('button', { name: 'add a column' }).click();
		await page.getByRole('combobox', { name: 'Kind of column 4' }).selectOption('one of a few');
		await expect(first.getByRole('row').nth(1)).toContainText(/first|second/);
		await accessible(page);

		await page.getByRole('button', { name: 'columns of a JSON Schema…' }).click();
		const schema =
			'{"type": "array", "items": {"properties": {"berth": {"enum": ["A-01", "B-02"]}, "nights": {"type": "integer", "minimum": 2, "maximum": 3}}}}';
		await write(page.getByRole('textbox', { name: 'JSON Schema of a row' }), '{"type"');
		await page.getByRole('button', { name: 'Take its columns' }).click();
		await expect(page.getByRole('alert')).toContainText('it is not JSON');
		await write(page.getByRole('textbox', { name: 'JSON Schema of a row' }), schema);
		await page.getByRole('button', { name: 'Take its columns' }).click();
		await expect(first.getByRole('row').nth(1)).toHaveText(/^(A-01|B-02)[23]$/);
		await page.getByLabel('Name of its file').fill('stays');
		await expect(page.getByRole('alert')).toContainText('ends with .csv');
		await page.getByLabel('Name of its file').fill('stays.csv');
		await page.getByLabel('How many rows').fill('40');
		await page.getByRole('button', { name: 'Make 40 rows' }).click();
		await expect(page.getByText('40 rows, 2 columns')).toBeVisible();
		const made = await bench.file('made', 'datasets/stays.csv');
		expect(made.split('\r\n')).toHaveLength(42);

		await page.goto(`${url}/datasets/new`);
		await page.getByRole('button', { name: 'Take column boat out' }).click();
		await page.getByRole('textbox', { name: 'Name of column 2' }).fill('number');
		await expect(page.getByRole('alert')).toContainText('each column wants a name of its own');
	});

	test('and are edited cell by cell; a column that is renamed takes its uses along', async ({ page, bench }) => {
		const url = await bench.project('edited');
		await page.goto(`${url}/datasets/refusals.csv`);
		await page.getByRole('button', { name: 'nights: where it is used' }).click();
		await expect(page.getByRole('region', { name: 'Uses of nights' })).toContainText('used in 1 place');
		await page.getByRole('button', { name: 'Edit', exact: true }).click();
		const cell = (title: string, row: number) =>
			page.getByRole('textbox', { name: `${title}, row ${row}`, exact: true });
		await cell('nights', 1).fill('007');
		await page.keyboard.press('Enter');
		await expect(cell('nights', 2)).toBeFocused();
		await page.keyboard.press('ArrowLeft');
		await expect(cell('from', 2)).toBeFocused();
		await page.evaluate(() =>
			navigator.clipboard.writeText('soon\t1\r\nlate\t2\r\nlater\t3\r\nlast\t4\r\nnever\t5\r\n')
		);
		await page.keyboard.press('Control+v');
		await expect(page.getByText('10 cells pasted')).toBeVisible();
		await expect(cell('from', 6)).toHaveValue('never');
		await expect
			.poll(() => bench.file('edited', 'datasets/refusals.csv'))
			.toContain('no boat,A-01,,2027-08-01,007,boat\n');
		await accessible(page);
		await page.getByRole('textbox', { name: 'Title of column nights' }).fill('field');
		await page.keyboard.press('Enter');
		await expect(page.getByText('there is a column field already')).toBeVisible();
		await page.getByRole('textbox', { name: 'Title of column nights' }).fill('stay');
		await page.keyboard.press('Enter');
		await expect(page.getByText('nights is called stay now, and in collections/season.yaml too')).toBeVisible();
		await expect.poll(() => bench.file('edited', 'collections/season.yaml')).toContain('{$row.stay}');
		await page.getByRole('button', { name: 'Add a row' }).click();
		await expect(cell('what', 7)).toBeFocused();
		await page.getByRole('button', { name: 'Delete row 7' }).click();
		await expect(cell('what', 7)).toHaveCount(0);
		await page.getByRole('button', { name: 'Add a column' }).click();
		await expect(cell('column', 1)).toBeVisible();
		const undo = page.getByRole('main').getByRole('button', { name: 'undo', exact: true });
		await undo.click();
		await expect(cell('column', 1)).toHaveCount(0);
		await undo.click();
		await expect(cell('what', 7)).toBeVisible();
		await undo.click();
		await expect(cell('what', 7)).toHaveCount(0);
		await page.getByRole('button', { name: 'Done' }).click();
		await expect(page.getByText('6 rows, 6 columns')).toBeVisible();
		await page.reload();
		await expect(page.getByText('stay · text')).toBeVisible();
	});

	test('and done with while the server takes its time is stored first; a message takes back its own step alone', async ({
		page,
		bench
	}) => {
		const url = await bench.project('slow');
		await page.goto(`${url}/datasets/refusals.csv`);
		await page.getByRole('button', { name: 'Edit', exact: true }).click();
		await page.route('**/files/datasets/**', async (route) => {
			if (route.request().method() === 'PUT') await new Promise((resolve) => setTimeout(resolve, 3000));
			await route.fallback();
		});
		const messages = page.getByRole('status', { name: 'Messages' });
		const title = (name: string) => page.getByRole('textbox', { name: `Title of column ${name}`, exact: true });
		await title('nights').fill('stay');
		const first = page.waitForRequest((request) => request.method() === 'PUT');
		await page.keyboard.press('Enter');
		await first;
		await expect(messages.getByRole('button', { name: 'undo' })).toBeVisible();
		// the table has the new name before what uses it does
		await page.waitForLoadState('networkidle');
		await expect(page.getByText('everything resolves')).toBeVisible({ timeout: 5000 });
		await page.getByRole('textbox', { name: 'what, row 1', exact: true }).fill('nobody');
		await page.keyboard.press('Tab');
		await expect(messages.getByText('nights is called stay now')).toBeVisible();
		await expect(messages.getByRole('button', { name: 'undo' })).toHaveCount(0);
		await page.getByRole('button', { name: 'Done' }).click();
		await expect(page.getByText('stay · number')).toBeVisible();
		await page.reload();
		await expect(page.getByText('stay · number')).toBeVisible();
		expect(await bench.file('slow', 'datasets/refusals.csv')).toContain('nobody');

		// what a step does in other files is taken back with it
		await page.getByRole('button', { name: 'Edit', exact: true }).click();
		await title('stay').fill('nights');
		await page.keyboard.press('Enter');
		await expect.poll(() => bench.file('slow', 'collections/season.yaml')).toContain('{$row.nights}');
		await page.getByRole('main').getByRole('button', { name: 'undo', exact: true }).click();
		await expect.poll(() => bench.file('slow', 'collections/season.yaml')).toContain('{$row.stay}');
		await expect(title('stay')).toBeVisible();
	});

	test('and one that was written elsewhere meanwhile is not written over', async ({ page, bench }) => {
		const url = await bench.project('twice');
		await page.goto(`${url}/datasets/refusals.csv`);
		await page.getByRole('button', { name: 'Edit', exact: true }).click();
		// what is changed there is read: what somebody writes from now on is newer
		await expect(page.getByRole('textbox', { name: 'what, row 1', exact: true })).toBeVisible();
		const file = `${bench.url}/api/projects/twice/files/datasets/refusals.csv`;
		const { revision } = (await (await page.request.get(file)).json()) as { revision: number };
		const headers = { 'content-type': 'application/octet-stream', origin: bench.url };
		const put = await page.request.put(`${file}?revision=${revision}`, { data: 'a,b\n1,theirs\n', headers });
		expect(put.ok()).toBe(true);
		await page.getByRole('textbox', { name: 'what, row 1', exact: true }).fill('mine');
		await page.keyboard.press('Tab');
		await expect(page.getByRole('alert')).toContainText('Changed elsewhere in the meantime.');
		await accessible(page);
		await expect.poll(() => bench.file('twice', 'datasets/refusals.csv')).toContain('theirs');
		await page.getByRole('button', { name: 'take theirs' }).click();
		await expect(page.getByText('1 row, 2 columns')).toBeVisible();
		// or what stands here is meant
		await page.getByRole('button', { name: 'Edit', exact: true }).click();
		await expect(page.getByRole('textbox', { name: 'b, row 1', exact: true })).toHaveValue('theirs');
		const now = (await (await page.request.get(file)).json()) as { revision: number };
		await page.request.put(`${file}?revision=${now.revision}`, { data: 'a,b\n2,again\n', headers });
		await page.getByRole('textbox', { name: 'b, row 1', exact: true }).fill('mine');
		await page.keyboard.press('Tab');
		await page.getByRole('button', { name: 'keep mine' }).click();
		await expect.poll(() => bench.file('twice', 'datasets/refusals.csv')).toBe('a,b\n1,mine\n');
	});

	test('and what is written while one is opened for it is what is changed', async ({ page, bench }) => {
		const url = await bench.project('newest');
		await page.goto(`${url}/datasets/refusals.csv`);
		await expect(page.getByText('what · text')).toBeVisible();
		const file = `${bench.url}/api/projects/newest/files/datasets/refusals.csv`;
		await page.route(
			'**/dataset',
			async (route) => {
				const { revision } = (await (await page.request.get(file)).json()) as { revision: number };
				const headers = { 'content-type': 'application/octet-stream', origin: bench.url };
				await page.request.put(`${file}?revision=${revision}`, {
					data: 'what,mooring,boat,from,nights,field\n1,2,3,4,5,theirs\n',
					headers
				});
				await route.continue();
			},
			{ times: 1 }
		);
		await page.getByRole('button', { name: 'Edit', exact: true }).click();
		await page.getByRole('textbox', { name: 'what, row 1', exact: true }).fill('both');
		await page.keyboard.press('Tab');
		await expect
			.poll(() => bench.file('newest', 'datasets/refusals.csv'))
			.toBe('what,mooring,boat,from,nights,field\nboth,2,3,4,5,theirs\n');
	});

	test('a run is made again with its seed', async ({ page, bench }) => {
		const url = await bench.project('seeds', {
			'collections/odd.yaml':
				'heron: 1\nconnection: mirror\nscenarios:\n  - id: s\n    title: Odd\n    steps:\n      - { id: a, send: "POST /x", body: { text: "{$fake.boat()} {$fake.integer(1, 1000000)}" } }\n'
		});
		await page.goto(`${url}/collections/odd`);
		await page.getByRole('button', { name: /^Run this/ }).click();
		await page.getByRole('link', { name: 'open the run sheet' }).click();
		const seed = /\d+/.exec(await page.getByText(/^seed \d+/).innerText())![0];
		const before = page.url();
		await page.getByRole('button', { name: 'run with it again' }).click();
		await expect(page).not.toHaveURL(before);
		await expect(page.getByText(/^seed \d+/)).toContainText(seed);
	});
});
