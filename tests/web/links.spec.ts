import { expect, test } from './fixtures.ts';

test('a link to a suite among many shows it, with the places of the page still there', async ({ page, bench }) => {
	const many = Array.from({ length: 40 }, (_, n) => [
		`suites/s${n + 10}.yaml`,
		`heron: 1\ntitle: Suite ${n + 10}\nscenarios: [bookings]\n`
	]);
	const url = await bench.project('to-suite', Object.fromEntries(many) as Record<string, string>);
	await page.goto(`${url}/suites#s44`);
	await expect(page.getByRole('textbox', { name: 'Name of Suite 44' })).toBeInViewport();
	await expect(page.getByRole('link', { name: 'Collections' })).toBeInViewport();
	// nothing but the list can be scrolled: not by a key, nor by what is focused
	await page.getByRole('link', { name: 'Rehearse Suite 47' }).focus();
	expect(await page.evaluate(() => document.documentElement.scrollTop)).toBe(0);
	expect(await page.evaluate(() => document.documentElement.scrollHeight - innerHeight)).toBe(0);
	// whoever has gone elsewhere since stays there
	await page.mouse.move(600, 400);
	await page.mouse.wheel(0, -30_000);
	const first = page.getByRole('textbox', { name: 'Name of Suite 10' });
	await expect(first).toBeInViewport();
	await page.getByRole('button', { name: 'New suite' }).click();
	await expect(page.getByRole('region', { name: 'Suite New suite' })).toBeAttached();
	await page.waitForLoadState('networkidle');
	await expect(first).toBeInViewport();
});

test('a link to an operation shows it in the list of all', async ({ page, bench }) => {
	const paths = Array.from(
		{ length: 200 },
		(_, n) => `  /basins/${n}:\n    get: { responses: { '200': { description: ok } } }\n`
	);
	const url = await bench.project('to-operation', {
		'definitions/many.yaml': `openapi: 3.0.3\ninfo: { title: Many, version: '1' }\npaths:\n${paths.join('')}`
	});
	await page.goto(
		`${url}/definitions?${new URLSearchParams({ file: 'definitions/many.yaml', operation: 'GET /basins/150' }).toString()}`
	);
	await expect(page.getByRole('navigation', { name: 'Operations' }).locator('[aria-current]')).toBeInViewport();
});

test('an answer that is added behind many is open where it can be seen, and so is one that a press moves', async ({
	page,
	bench
}) => {
	const answers = Array.from({ length: 60 }, (_, n) => `  - { id: a${n}, ask: GET /a${n}, answer: { status: 204 } }\n`);
	const url = await bench.project('many-answers', {
		'stand-ins/busy.yaml': `heron: 1\ntitle: Busy\nanswers:\n${answers.join('')}`
	});
	await page.goto(`${url}/stand-ins/busy`);
	await page.getByRole('button', { name: 'add an answer' }).click();
	const tools = page.getByRole('button', { name: 'duplicate', exact: true });
	const head = page.getByRole('button', { name: /^answer: GET/ });
	await expect(head).toHaveAttribute('aria-expanded', 'true');
	await expect(head).toBeInViewport();
	// its end, too
	await expect(page.locator('#answer-60')).toBeInViewport({ ratio: 0.95 });
	await tools.click();
	await expect(page.getByRole('button', { name: /^answer2: GET/ })).toBeInViewport();
	await expect(page.locator('#answer-61')).toBeInViewport({ ratio: 0.95 });
});

test('a press right after scrolling counts', async ({ page, bench }) => {
	const url = await bench.project('pressed');
	await page.setViewportSize({ width: 1280, height: 500 });
	await page.goto(`${url}/collections/bookings`);
	const rows = page.locator('[data-step]');
	await expect(rows.first()).toBeVisible();
	await page.mouse.move(600, 300);
	await page.mouse.wheel(0, 90);
	// where a step stands in the first frame after it has moved
	const place = await page.evaluate(async () => {
		const list = document.querySelector('[data-step]')!.closest<HTMLElement>('[style*="overflow-y"]')!;
		while (list.scrollTop === 0) await new Promise(requestAnimationFrame);
		const inSight = ({ top, bottom }: DOMRect) => top > list.getBoundingClientRect().top && bottom < innerHeight - 120;
		const press = [...document.querySelectorAll('[data-step] [aria-expanded]')].find((one) =>
			inSight(one.getBoundingClientRect())
		)!;
		const { left, top, width, height } = press.getBoundingClientRect();
		const step = press.closest('[data-step]')!.getAttribute('data-step');
		const [x, y] = [left + width / 2, top + height / 2];
		return { step, x, y, there: press.contains(document.elementFromPoint(x, y)) };
	});
	expect(place.there).toBe(true);
	await page.mouse.click(place.x, place.y);
	await expect(page.locator(`[data-step="${place.step}"] [aria-expanded="true"]`)).toBeVisible();
});
