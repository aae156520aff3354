import { accessible, expect, saved, test } from './fixtures.ts';

test('what was written is shown change by change, gets names, and comes back', async ({ page, bench }) => {
	const url = await bench.project('history', {
		'collections/reading.yaml':
			'heron: 1\ntitle: Reading\nconnection: reedmere\nscenarios:\n  - id: look\n    title: Look\n    steps:\n      - { id: health, title: Is it up, send: GET /health }\n'
	});
	await page.goto(`${url}/history`);
	const list = page.getByRole('navigation', { name: 'Changes, the newest first' });
	const change = page.getByRole('region', { name: 'The change' });
	await expect(list.getByRole('link')).toHaveCount(1);
	await expect(change).toContainText('collections/reading.yaml');
	await accessible(page);

	// the state that is good gets a name
	await change.getByRole('button', { name: 'name it' }).click();
	await change.getByRole('textbox', { name: 'Name of revision 1' }).fill('7');
	await change.getByRole('button', { name: 'Name it' }).click();
	await expect(change.getByRole('alert')).toContainText('not digits alone');
	await change.getByRole('textbox', { name: 'Name of revision 1' }).fill('release-7');
	await page.keyboard.press('Enter');
	await expect(list.getByRole('link').first()).toContainText('release-7');

	// an edit on the page is a change of its own
	await page.goto(`${url}/collections/reading`);
	await page.getByRole('textbox', { name: 'Title of the scenario' }).fill('Look twice');
	await saved(page);
	await page
		.getByText(/^Reading|Reedmere/)
		.first()
		.click();
	await page.getByRole('link', { name: 'Its history' }).click();
	await expect(list.getByRole('link')).toHaveCount(2);
	await expect(list.getByRole('link').first()).toContainText('collections/reading');
	await expect(change).toContainText('look › title was "Look", is "Look twice"');
	await change.getByRole('button', { name: 'collections/reading.yaml as lines' }).click();
	await expect(change.getByRole('region', { name: /^Lines of/ })).toContainText('title: Look twice');
	await change.getByRole('combobox', { name: 'Compared with' }).selectOption({ label: 'release-7 (1)' });
	await expect(page).toHaveURL(/with=1$/);
	await expect(change).toContainText('is "Look twice"');

	// back to what has a name, and that taken back
	await list.getByRole('link').filter({ hasText: 'release-7' }).click();
	await change.getByRole('button', { name: 'Go back to this' }).click();
	await expect(page.getByText('collections/reading.yaml as release-7.')).toBeVisible();
	await expect.poll(() => bench.file('history', 'collections/reading.yaml')).toContain('title: Look\n');
	await page.getByRole('button', { name: 'undo' }).click();
	await expect.poll(() => bench.file('history', 'collections/reading.yaml')).toContain('title: Look twice');

	// a suite that runs with it
	await page.goto(`${url}/suites`);
	await page.getByRole('combobox', { name: 'Revision of Smoke' }).selectOption('release-7');
	await expect.poll(() => bench.file('history', 'suites/smoke.yaml')).toContain('revision: release-7');
});
