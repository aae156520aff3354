import { accessible, expect, test } from './fixtures.ts';

test('the definitions of a project: what an operation takes and gives, which steps call it, a step made of it', async ({
	page,
	bench
}) => {
	const url = await bench.project('read-out');
	// a secret as short as a number hides no count
	await page.request.put(`${bench.url}/api/projects/read-out/secrets`, {
		data: { environment: '', name: 'one', value: '1' },
		headers: { origin: bench.url }
	});
	await page.goto(`${url}/collections`);
	await page.getByRole('link', { name: 'Definitions', exact: true }).click();
	await expect(page.getByText('Choose an operation to read what it takes and gives.')).toBeVisible();
	const list = page.getByRole('navigation', { name: 'Operations' });
	await list.getByRole('link', { name: /POST \/bookings/ }).click();
	await expect(page).toHaveURL(/operation=POST\+%2Fbookings/);
	const shown = page.getByRole('article', { name: 'POST /bookings' });
	await expect(shown.getByRole('table', { name: 'Schema of the body, application/json' })).toContainText('nights');
	await expect(shown.getByRole('region', { name: 'Answer 409' })).toBeVisible();
	await accessible(page);
	await shown.getByRole('button', { name: 'Example of the body, application/json' }).click();
	await expect(shown.locator('pre').first()).toContainText('"nights"');
	await expect(shown.getByRole('link', { name: 'book-a-mooring › book' })).toHaveAttribute(
		'href',
		'/read-out/collections/bookings#book-a-mooring/book'
	);

	await page.getByRole('checkbox', { name: 'that nobody calls' }).check();
	await expect(list.getByRole('link', { name: /POST \/bookings/ })).toHaveCount(0);
	// two steps call one of them once: their count is shown all the same
	await expect(list.getByRole('link', { name: /GET \/bookings\/\{reference\}/ })).toHaveCount(0);
	await page.getByRole('searchbox', { name: 'Operations that say' }).fill('put bookings');
	await list.getByRole('link', { name: /PUT \/bookings/ }).click();
	const put = page.getByRole('article', { name: 'PUT /bookings/{reference}' });
	await expect(put.getByText('no step calls it')).toBeVisible();
	await put.getByRole('button', { name: 'New step from it' }).click();
	await expect(page.getByText(/The scenario .* is in bookings/)).toBeVisible();
	await expect(put.getByText('called by')).toBeVisible();
	await expect
		.poll(() => bench.file('read-out', 'collections/bookings.yaml'))
		.toContain('send: PUT /bookings/{reference}');
	await page.getByRole('searchbox', { name: 'Operations that say' }).fill('nothing like it');
	await expect(page.getByText('Nothing fits.')).toBeVisible();

	// an operation of a WSDL, with its types that stand in and its faults
	await page.getByRole('checkbox', { name: 'that nobody calls' }).uncheck();
	await page.getByRole('searchbox', { name: 'Operations that say' }).fill('RecordPassage');
	await list.getByRole('link', { name: /TollLedger\.RecordPassage/ }).click();
	const soap = page.getByRole('article', { name: 'TollLedger.RecordPassage' });
	const rows = soap.getByRole('table', { name: /^Schema of the body/ });
	await expect(rows.getByRole('row', { name: /^licence string/ })).toContainText('[A-Z]{2}-[0-9]{6}');
	await expect(rows).toContainText('either of type TicketPayment');
	await expect(soap.getByRole('region', { name: 'Answer fault PassageFault' })).toBeVisible();
	await accessible(page);
	await soap.getByRole('button', { name: 'New step from it' }).click();
	await expect(page.getByText(/The scenario recordpassage.* is in /)).toBeVisible();

	// from a body’s form to what its definition says
	await page.goto(`${url}/collections/bookings#book-a-mooring/book`);
	await page.getByRole('link', { name: 'POST /bookings', exact: true }).click();
	await expect(shown.getByText('called by')).toBeVisible();
	await page.goto(`${url}/definitions?file=definitions/moorings.yaml&operation=GET+/nowhere`);
	await expect(page.getByText('There is no GET /nowhere in definitions/moorings.yaml.')).toBeVisible();
});

test('without a definition the page says how to get one', async ({ page, bench }) => {
	const url = await bench.project('undefined-yet', {
		'definitions/moorings.yaml': 'nothing: here\n',
		'heron.yaml': 'heron: 1\ntitle: Nothing yet\n'
	});
	await page.goto(`${url}/definitions`);
	await expect(page.getByRole('heading', { name: 'Definitions' })).toBeVisible();
	await accessible(page);
});
