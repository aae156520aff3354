import { accessible, expect, test } from './fixtures.ts';

test('coverage says what nobody tests, and makes the step that would', async ({ page, bench }) => {
	const url = await bench.project('covered');
	await page.goto(`${url}/collections`);
	await page.getByRole('link', { name: 'Coverage' }).click();
	await expect(page.getByRole('heading', { name: 'Reedmere Waterways: moorings' })).toBeVisible();
	await accessible(page);
	const row = page.getByRole('button', { name: /^GET \/moorings:/ });
	await row.click();
	const missing = page.getByRole('region', { name: 'What nobody tests' });
	await expect(missing).toContainText('answer 400');
	await accessible(page);
	await missing
		.getByRole('listitem')
		.filter({ hasText: 'answer 400' })
		.getByRole('button', { name: 'make the step' })
		.click();
	const messages = page.getByRole('status', { name: 'Messages' });
	await expect(messages).toContainText(/The scenario .*answer-400 is in bookings/);
	await expect(missing).not.toContainText('answer 400');
	await expect(page.getByRole('region', { name: 'What is tested' })).toContainText(/answer-400 › call/);
	await expect
		.poll(() => bench.file('covered', 'collections/bookings.yaml'))
		.toMatch(/answer 400[\s\S]*send: GET \/moorings[\s\S]*status: 400/);
	await messages.getByRole('button', { name: 'undo' }).click();
	await expect(missing).toContainText('answer 400');

	// all that is just beyond what the definition allows, at once
	const beyond = missing.getByRole('button', { name: /^make all \d+ steps: values beyond what schemas allow/ });
	await beyond.click();
	await expect(messages).toContainText(/\d+ scenarios are in bookings/);
	await expect(beyond).toHaveCount(0);
	await expect(missing).not.toContainText('query size more than');
	const made = await bench.file('covered', 'collections/bookings.yaml');
	expect(made).toMatch(/contract:\s+request: false/);
	await messages.getByRole('button', { name: 'undo' }).last().click();
	await expect(beyond).toBeVisible();

	// and an operation of a WSDL
	await page.getByLabel('Operations that say').fill('RecordPassage');
	await page.getByRole('button', { name: /^TollLedger\.RecordPassage:/ }).click();
	await missing
		.getByRole('listitem')
		.filter({ hasText: 'of type CashPayment' })
		.getByRole('button', { name: 'make the step' })
		.click();
	await expect(messages).toContainText(/The scenario recordpassage.* is in /);
	await expect(missing).not.toContainText('of type CashPayment');
	await accessible(page);
	await page.getByLabel('Operations that say').fill('pilot');
	await expect(page.getByRole('button', { name: /^PilotOffice\.CancelPilot:/ })).toBeVisible();
	await expect(row).toHaveCount(0);
	await page.getByLabel('Operations that say').fill('nothing says that');
	await page.getByRole('button', { name: 'show all operations' }).click();
	await expect(row).toBeVisible();
});

test('what a run really called is counted', async ({ page, bench }) => {
	const url = await bench.project('covered-run');
	const started = await page.request.post(`${bench.url}/api/projects/covered-run/runs`, {
		data: { targets: ['bookings/book-a-mooring'], environment: 'local' }
	});
	const { id } = (await started.json()) as { id: string };
	const runs = `${bench.url}/api/projects/covered-run/runs?limit=1`;
	await expect
		.poll(async () => ((await (await page.request.get(runs)).json()) as { status: string }[])[0]!.status)
		.not.toBe('running');
	await page.goto(`${url}/coverage`);
	await page.getByLabel('What is counted').selectOption({ index: 1 });
	await expect(page).toHaveURL(new RegExp(`run=${id}`));
	await expect(page.getByRole('button', { name: /^GET \/permits\/\{id\}: 0 of/ })).toBeVisible();
	await page.getByRole('button', { name: /^POST \/bookings:/ }).click();
	await expect(page.getByRole('region', { name: 'What is tested' })).toContainText('book-a-mooring ›');
});

test('a project without a definition is told where to begin', async ({ page, bench }) => {
	await bench.project('covered-not', { 'definitions/x.txt': '' });
	const { files } = (await (await page.request.get(`${bench.url}/api/projects/covered-not/export`)).json()) as {
		files: { path: string; base64: string }[];
	};
	await page.request.post(`${bench.url}/api/projects`, {
		data: { name: 'covered-not', files: files.filter(({ path }) => !path.startsWith('definitions/')), replace: true }
	});
	await page.goto(`${bench.url}/covered-not/coverage`);
	await expect(page.getByText('There is no definition that steps could be held against')).toBeVisible();
	await accessible(page);
});
