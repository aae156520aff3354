import type { Page } from '@playwright/test';
import { expect, stepButton, test } from './fixtures.ts';

/** Fields that give something another name, which may draw it anew; that take a name alone; and one of a trial that no file holds. */
const OTHERS = /^(Its name|Id|Add to .*|Name of (Nightly|Smoke|the (store|fault)).*|Path of the trial)$/;
const FIELDS =
	'main input:is([type=text], [type=number], :not([type])):visible, main textarea:visible, main .cm-content[contenteditable=true]:visible';

/** Whatever is typed into a field that is shown is stored, and the field keeps the focus meanwhile. Returns how many there were. */
async function allAreStored(page: Page): Promise<number> {
	const fields = page.locator(FIELDS);
	let seen = 0;
	for (let index = 0; index < (await fields.count()); index++) {
		const field = fields.nth(index);
		const label = await field.evaluate(
			(one) =>
				one.getAttribute('aria-label') ?? (one as HTMLInputElement).labels?.[0]?.textContent?.trim() ?? one.className
		);
		if (OTHERS.test(label)) continue;
		seen++;
		await test.step(label, async () => {
			await field.click();
			await page.keyboard.press('End');
			const used = await page.evaluateHandle(() => document.activeElement!);
			const stored = page.waitForResponse(
				(response) => response.request().method() === 'PUT' && /\/files\//.test(response.url()),
				{ timeout: 60_000 }
			);
			await page.keyboard.type('7');
			// some are read when they are left, or when the page is
			await page.evaluate(() => document.activeElement?.dispatchEvent(new Event('change', { bubbles: true })));
			const response = await stored;
			expect(response.status(), label).toBe(200);
			expect(await used.evaluate((one) => one.isConnected && one === document.activeElement), label).toBe(true);
		});
	}
	return seen;
}

const more = (page: Page) => page.getByRole('button', { name: 'more', exact: true }).click();
const pages: [what: string, path: string, least: number, before: (page: Page) => Promise<unknown>][] = [
	['a connection', 'connections/reedmere', 6, async () => {}],
	['a recipe', 'credentials/lock-ledger', 4, async () => {}],
	['the suites', 'suites', 8, async () => {}],
	['a stand-in', 'stand-ins/notices', 8, (page) => page.getByRole('button', { name: 'settings', exact: true }).click()],
	[
		'a step',
		'collections/bookings',
		15,
		async (page) => {
			await stepButton(page, 'book-a-mooring', 'book').click();
			await more(page);
		}
	]
];
for (const [what, path, least, before] of pages)
	test(`what is typed into any field of ${what} is stored, and the field stays`, async ({ page, bench }) => {
		const url = await bench.project(`fields-${path.replace(/\W/g, '-')}`);
		await page.goto(`${url}/${path}`);
		await before(page);
		await expect(page.locator(FIELDS).first()).toBeVisible();
		expect(await allAreStored(page)).toBeGreaterThanOrEqual(least);
	});
