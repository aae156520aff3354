import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import type { Page } from '@playwright/test';
import { accessible, expect, stepButton, test } from './fixtures.ts';

/** What reaches beyond the right edge of the window and cannot be scrolled to, in the first view. */
const cutOff = (page: Page): Promise<string[]> =>
	page.evaluate(() => {
		const scrolls = (element: Element | null): boolean =>
			element !== null &&
			(/auto|scroll/.test(getComputedStyle(element).overflowX) && element.scrollWidth > element.clientWidth
				? true
				: scrolls(element.parentElement));
		return [...document.querySelectorAll('header *, main *, footer *')]
			.filter((element) => {
				const { right, width, height } = element.getBoundingClientRect();
				const shown = width > 1 && height > 1 && getComputedStyle(element).visibility === 'visible';
				const hidden = element.closest('.truncate, [aria-hidden="true"], .sr-only');
				return shown && !hidden && right > innerWidth + 1 && !scrolls(element);
			})
			.map((element) => `${element.tagName} ${element.textContent?.trim().slice(0, 40)}`);
	});

test('at 320 px, or 400 %, nothing is cut off and no place is wider than the window', async ({ page, bench }) => {
	test.slow();
	const url = await bench.project('very-narrow');
	await page.setViewportSize({ width: 320, height: 800 });
	for (const place of [
		'collections',
		'collections/bookings',
		'connections',
		'connections?show=credentials',
		'connections/reedmere',
		'credentials/warden',
		'suites',
		'runs',
		'stand-ins',
		'rehearsal',
		'coverage',
		'definitions'
	]) {
		await page.goto(`${url}/${place}`);
		await expect(page.getByText('everything resolves')).toBeVisible();
		expect(await page.evaluate(() => document.documentElement.scrollWidth), place).toBeLessThanOrEqual(320);
		expect(await cutOff(page), place).toEqual([]);
	}
	// the matrix of values is a table in two dimensions: it scrolls by itself
	await page.goto(`${url}/values`);
	expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(320);
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'free').click();
	await expect(page.locator('[data-facet="answer"]')).toBeVisible();
	await accessible(page);
});

async function printed(page: Page): Promise<string> {
	const document = await getDocument({ data: new Uint8Array(await page.pdf({ format: 'A4' })), verbosity: 0 }).promise;
	let text = '';
	for (let number = 1; number <= document.numPages; number++) {
		const { items } = await (await document.getPage(number)).getTextContent();
		text += `${items.map((item) => ('str' in item ? item.str : '')).join(' ')}\n`;
	}
	await document.cleanup();
	return text.replace(/\s+/g, ' ');
}

test('on paper a ledger and a run sheet are whole, without what can only be pressed', async ({ page, bench }) => {
	const url = await bench.project('paper');
	await page.goto(`${url}/collections/bookings`);
	await expect(page.getByText('everything resolves')).toBeVisible();
	const ledger = await printed(page);
	for (const words of ['Mooring bookings', 'Sign in as the clerk', 'Cancel it', 'Upload a permit and replace it'])
		expect(ledger).toContain(words);
	for (const words of ['Run all', 'Rehearse', 'everything resolves', '+ step']) expect(ledger).not.toContain(words);
	// the page is as it was
	await expect(page.getByRole('button', { name: 'Run all' })).toBeVisible();
	await page.getByRole('button', { name: 'Run this' }).first().click();
	await page.getByRole('link', { name: 'open the run sheet' }).click();
	// at its end all that passed is folded
	await expect(page.getByRole('heading', { level: 1 })).toContainText('7 passed');
	await expect(page.getByRole('button', { name: 'Run all again' })).toBeVisible();
	await expect(page.getByText('Cancel it', { exact: true })).toHaveCount(0);
	const sheet = await printed(page);
	for (const words of ['Book, change and cancel a mooring', 'Cancel it', 'passed']) expect(sheet).toContain(words);
	expect(sheet).not.toContain('Run again');
});

test('with colours of the system what is chosen and what has the focus is still told', async ({ page, bench }) => {
	const url = await bench.project('forced');
	await page.emulateMedia({ forcedColors: 'active' });
	await page.goto(`${url}/connections`);
	const chosen = page.getByRole('navigation', { name: 'What is listed' }).getByRole('link').first();
	const [one, other] = await Promise.all(
		[chosen, chosen.locator('xpath=following-sibling::a')].map((link) =>
			link.evaluate((element) => getComputedStyle(element).backgroundColor)
		)
	);
	expect(one).not.toBe(other);
	const press = page.getByRole('button', { name: 'New connection' });
	expect(await press.evaluate((element) => getComputedStyle(element).borderTopWidth)).toBe('1px');
});

test('a ledger says which scenario one is in when its head is out of sight, and leads there', async ({
	page,
	bench
}) => {
	const url = await bench.project('strip', {
		'collections/long.yaml': `heron: 1\ntitle: Long\nconnection: reedmere\nscenarios:\n${['first', 'second']
			.map(
				(id) =>
					`  - id: ${id}\n    title: The ${id} one\n    steps:\n${Array.from({ length: 40 }, (_, n) => `      - { id: s${n}, send: GET /health }\n`).join('')}`
			)
			.join('')}`
	});
	await page.goto(`${url}/collections/long`);
	const strip = page.getByRole('button', { name: /^To the head of/ });
	await expect(page.getByRole('textbox', { name: 'Title of the scenario' }).first()).toHaveValue('The first one');
	await expect(strip).toHaveCount(0);
	// what a link leads to is not below the line
	await page.goto(`${url}/collections/long#second/s30`);
	await expect(strip).toHaveText('The second one');
	const step = stepButton(page, 'second', 's30');
	await expect(step).toBeFocused();
	const [top, bottom] = [(await step.boundingBox())!.y, await strip.boundingBox().then((box) => box!.y + box!.height)];
	expect(top).toBeGreaterThanOrEqual(bottom - 4);
	await accessible(page);
	await strip.click();
	await expect(strip).toHaveCount(0);
	await expect(page.getByRole('textbox', { name: 'Title of the scenario' }).first()).toBeVisible();
});
