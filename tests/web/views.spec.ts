import { accessible, expect, stepButton, test } from './fixtures.ts';

for (const theme of ['almanac', 'dusk']) {
	test(`every place is there and accessible, ${theme}`, async ({ page, bench }) => {
		// axe looks at many pages: slow machines need their time
		test.slow();
		const url = await bench.project(`views-${theme}`);
		await page.context().addCookies([{ name: 'theme', value: theme, url: bench.url }]);
		for (const [place, heading] of [
			['collections', 'Collections'],
			['connections', 'Connections'],
			['values', 'Values'],
			['suites', 'Suites'],
			['runs', 'Runs'],
			['stand-ins', 'Stand-ins']
		]) {
			await page.goto(`${url}/${place}`);
			await expect(page.getByRole('heading', { level: 1, name: heading })).toBeVisible();
			await expect(page.getByText('everything resolves')).toBeVisible();
			await accessible(page);
		}
		await page.goto(`${url}/collections/bookings`);
		await stepButton(page, 'book-a-mooring', 'book').click();
		await expect(page.getByRole('region', { name: 'Step 3: Three nights at the first free berth' })).toBeVisible();
		await accessible(page);
		await page.getByRole('button', { name: 'Checks of step 3' }).first().click();
		await expect(page.getByRole('list', { name: 'Checks' })).toBeVisible();
		await accessible(page);
		await page.keyboard.press('Escape');
		await page.keyboard.press('?');
		await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
		await accessible(page);
	});
}

for (const theme of ['almanac', 'dusk']) {
	test(`connections and credentials are accessible, ${theme}`, async ({ page, bench }) => {
		test.slow();
		const url = await bench.project(`signing-${theme}`);
		await page.context().addCookies([{ name: 'theme', value: theme, url: bench.url }]);
		for (const [place, heading] of [
			['connections?show=credentials', 'Connections'],
			['connections/gatehouse-by-proxy', 'Gatehouse, by way of a proxy'],
			['credentials/gate-token', 'Gate key and token'],
			['credentials/avery', 'Avery, with consent'],
			['credentials/warden', 'The warden']
		]) {
			await page.goto(`${url}/${place}`);
			await expect(page.getByRole('heading', { level: 1, name: heading })).toBeVisible();
			await expect(page.getByText('everything resolves')).toBeVisible();
			await accessible(page);
		}
	});
}

test('a ledger is there before any script has run', async ({ browser, bench }) => {
	const url = await bench.project('drawn');
	const context = await browser.newContext({ javaScriptEnabled: false });
	const page = await context.newPage();
	const response = await page.goto(`${url}/collections/bookings`);
	// it holds what the project holds
	expect(response!.headers()['cache-control']).toBe('no-store');
	await expect(page.getByText('Three nights at the first free berth')).toBeVisible();
	await expect(page.locator('[data-step=signIn]').first()).toBeVisible();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Mooring bookings');
	await context.close();
});

test('what a ledger fetches before it is alive stays within its budget', async ({ page, bench }) => {
	const url = await bench.project('budget');
	await page.goto(`${url}/collections/bookings`);
	const fetched = await page.evaluate(() => {
		const alive = performance.getEntriesByName('alive')[0]!.startTime;
		const entries = [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')];
		return (
			(entries as PerformanceResourceTiming[])
				// an icon or an answer may come before or after it is alive
				.filter(({ name, startTime }) => startTime < alive && !/\/api\/|\.svg$/.test(name))
				.map(({ name, encodedBodySize }) => ({ name, bytes: encodedBodySize }))
		);
	});
	const bytes = fetched.reduce((sum, one) => sum + one.bytes, 0);
	// what is new to the first view has to be worth it: raise these with a reason. The last ones: that calls wait at stand-ins,
	// that the foot says who stands in, that a collection can be called otherwise, that each error has a sentence of its own, that
	// an expression may ask whether a name is there, and that each kind of step says all that is asked of it
	expect.soft(bytes, JSON.stringify(fetched, null, 1)).toBeLessThan(330_000);
	expect.soft(bytes).toBeGreaterThan(100_000);
	// in fewer files what other pages read comes along: 55 kB of it
	const chunks = fetched.filter(({ name }) => /immutable\/chunks\//.test(name));
	expect(chunks.length).toBeLessThan(43);
	// editors come later, and without being asked for
	await expect
		.poll(() =>
			page.evaluate(() => performance.getEntriesByType('resource').filter(({ name }) => /\.js$/.test(name)).length)
		)
		.toBeGreaterThan(fetched.filter(({ name }) => /\.js$/.test(name)).length);
});

test('no page asks for anything from elsewhere, and the fonts are the shipped ones', async ({ page, bench }) => {
	const url = await bench.project('closed');
	const foreign: string[] = [];
	page.on('request', (request) => {
		if (!request.url().startsWith(bench.url) && !request.url().startsWith('data:')) foreign.push(request.url());
	});
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'signIn').click();
	await expect(page.getByRole('region', { name: /^Step 1/ })).toBeVisible();
	const fonts = await page.evaluate(async () => {
		await document.fonts.ready;
		return [...document.fonts].filter((font) => font.status === 'loaded').map((font) => font.family.replace(/"/g, ''));
	});
	expect(fonts).toEqual(
		expect.arrayContaining(['Atkinson Hyperlegible Next Variable', 'Atkinson Hyperlegible Mono Variable'])
	);
	expect(foreign).toEqual([]);
});

test('a page of another site cannot reach the server', async ({ bench, request }) => {
	const evil = await request.post(`${bench.url}/api/projects`, {
		headers: { origin: 'http://evil.example', 'content-type': 'application/json' },
		data: {}
	});
	expect(evil.status()).toBe(403);
	const rebound = await request.get(`${bench.url}/api/projects`, { headers: { host: 'evil.example' } });
	expect(rebound.status()).toBe(403);
	const page = await request.get(bench.url);
	expect(page.headers()['content-security-policy']).toContain("default-src 'self'");
});

test('what is not there is said, with a way back', async ({ page, bench }) => {
	const url = await bench.project('gone');
	await page.goto(`${url}/collections/no-such`);
	await expect(page.getByRole('heading', { name: /collections\/no-such\.yaml was not found/ })).toBeVisible();
	await page.getByRole('link', { name: 'to the start' }).click();
	await expect(page.getByRole('heading', { name: 'Collections' })).toBeVisible();
	await page.locator('[inert]').waitFor({ state: 'detached' });
});

test('find goes to a step', async ({ page, bench }) => {
	const url = await bench.project('find');
	await page.goto(`${url}/runs`);
	await expect(page.getByRole('heading', { name: 'Runs' })).toBeVisible();
	await page.keyboard.press('/');
	await page.getByRole('combobox', { name: 'Find' }).fill('one night longer');
	await expect(page.getByRole('option', { name: /Stay one night longer/ })).toBeVisible();
	await page.keyboard.press('Enter');
	await expect(page.getByRole('region', { name: 'Step 5: Stay one night longer' })).toBeVisible();
});

test('the theme is the system’s until one is chosen', async ({ page, bench }) => {
	await bench.project('themed');
	await page.emulateMedia({ colorScheme: 'dark' });
	await page.goto(`${bench.url}/themed/collections`);
	const theme = () => page.evaluate(() => document.documentElement.dataset.theme);
	expect(await theme()).toBe('dusk');
	await page.emulateMedia({ colorScheme: 'light' });
	await expect.poll(theme).toBe('almanac');
	await page.getByRole('button', { name: 'Dark theme' }).click();
	await page.reload();
	await page.getByRole('button', { name: 'Light theme' }).click();
	expect(await theme()).toBe('almanac');
	await page.emulateMedia({ colorScheme: 'dark' });
	await page.reload();
	expect(await theme()).toBe('almanac');
	await expect(page.getByRole('button', { name: 'Dark theme' })).toBeVisible();
});

test('in a narrow window the places fold into a menu, and the answer stands below what is sent', async ({
	page,
	bench
}) => {
	const url = await bench.project('narrow');
	await page.setViewportSize({ width: 640, height: 800 });
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'free').click();
	const part = (name: string) => page.locator(`[data-facet="${name}"]`);
	await expect(part('answer')).toBeVisible();
	const [send, answer] = await Promise.all([part('send').boundingBox(), part('answer').boundingBox()]);
	expect(answer!.y).toBeGreaterThanOrEqual(send!.y + send!.height - 1);
	expect(send!.width).toBeGreaterThan(500);
	await accessible(page);
	await page.locator('header summary').nth(1).click();
	await page.getByRole('list', { name: 'Places' }).getByRole('link', { name: 'Runs' }).click();
	await expect(page.getByRole('heading', { level: 1, name: 'Runs' })).toBeVisible();
	// nothing is wider than the window
	expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(640);
});
