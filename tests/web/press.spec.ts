import type { Locator, Page } from '@playwright/test';
import { drawer, expect, saved, stepButton, test, write } from './fixtures.ts';

/** Presses and lets go, with something in between. */
async function pressAnd(
	page: Page,
	name: string | RegExp | ReturnType<typeof stepButton>,
	between: () => Promise<unknown>
) {
	const target = typeof name === 'string' || name instanceof RegExp ? page.getByRole('button', { name }) : name;
	await target.scrollIntoViewIfNeeded();
	const box = (await target.boundingBox())!;
	await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
	await page.mouse.down();
	await between();
	await page.mouse.up();
}

/** Puts lines above the rows of a ledger, as a note does that comes late. */
const moveDown = (page: Page) =>
	page.evaluate(() => {
		const pad = document.createElement('div');
		pad.style.height = '90px';
		const group = document.querySelector('[role=group][aria-label^="Ledger of"]')!;
		group.before(pad);
	});

test('a press on a row opens it although the page moves before it is let go', async ({ page, bench }) => {
	const url = await bench.project('pressed');
	await page.goto(`${url}/collections/bookings`);
	const step = stepButton(page, 'book-a-mooring', 'free');
	await step.first().waitFor();
	await pressAnd(page, step, () => moveDown(page));
	await expect(step).toHaveAttribute('aria-expanded', 'true');
	// and once only: it stays open, and the next press closes it
	await pressAnd(page, step, async () => {});
	await expect(step).toHaveAttribute('aria-expanded', 'false');
});

test('a press that is drawn away from its button does nothing', async ({ page, bench }) => {
	const url = await bench.project('drawn');
	await page.goto(`${url}/collections/bookings`);
	const step = stepButton(page, 'book-a-mooring', 'free');
	await step.waitFor();
	await pressAnd(page, step, () => page.mouse.move(300, 780));
	await expect(step).toHaveAttribute('aria-expanded', 'false');
});

test('a reply that adds a note above waits until the press is let go', async ({ page, bench }) => {
	const url = await bench.project('noted');
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'signIn').click();
	const step = drawer(page, /^Step 1/);
	// what is typed gains the row a note, when it is saved
	let answer = () => {};
	const held = new Promise<void>((resolve) => (answer = resolve));
	await page.route('**/files/collections/bookings.yaml*', async (route) => {
		const reply = await route.fetch();
		await held;
		await route.fulfill({ response: reply });
	});
	const asked = page.waitForRequest((request) => request.method() === 'PUT');
	await write(step.getByLabel('Path', { exact: true }), '/sessions//twice');
	await asked;
	const row = page.locator('[data-step=signIn]').first();
	await pressAnd(page, /^Send this step/, async () => {
		answer();
		// the reply is here, and nothing moves
		await page.waitForTimeout(150);
		await expect(row.getByText('two slashes in a row')).toBeHidden();
	});
	await expect(row.getByText('two slashes in a row')).toBeVisible();
	await expect(row.getByRole('button', { name: 'Checks of step 1' })).toContainText('got 404');
});

test('answers that are fetched late do not win over one that has just come', async ({ page, bench }) => {
	const url = await bench.project('late');
	let answer = () => {};
	const held = new Promise<void>((resolve) => (answer = resolve));
	await page.route('**/latest?*', async (route) => {
		const reply = await route.fetch();
		await held;
		await route.fulfill({ response: reply });
	});
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'signIn').click();
	const step = drawer(page, /^Step 1/);
	await step.getByRole('button', { name: /^Send this step/ }).click();
	await expect(step.getByText('201 Created').first()).toBeVisible();
	const late = page.waitForResponse('**/latest?*');
	answer();
	await late;
	// time in which it would be shown
	await page.waitForTimeout(300);
	await expect(step.getByText('201 Created').first()).toBeVisible();
	await saved(page);
	await expect(step.getByText('No answer yet')).toBeHidden();
});

test('what is pressed before the page is alive is pressed when it is', async ({ page, bench }) => {
	const url = await bench.project('asleep');
	let wake = () => {};
	const held = new Promise<void>((resolve) => (wake = resolve));
	await page.route('**/_app/immutable/**/*.js', async (route) => {
		await held;
		await route.continue();
	});
	const opened = page.goto(`${url}/collections/bookings`, { waitUntil: 'commit' });
	const drawn = page.locator('[inert] [id="step-book-a-mooring-signIn"]');
	await drawn.waitFor();
	const { x, y, width, height } = (await drawn.boundingBox())!;
	await page.mouse.click(x + width / 2, y + height / 2);
	await expect(page.locator('[inert]')).toBeAttached();
	wake();
	await opened;
	await expect(drawer(page, /^Step 1/)).toBeVisible();
	// once, and no more
	await page.keyboard.press('Escape');
	await expect(drawer(page, /^Step 1/)).toBeHidden();
});

test('rows that come late leave what is being typed where it is', async ({ page, bench }) => {
	const url = await bench.project('rows');
	let late = () => {};
	const held = new Promise<void>((resolve) => (late = resolve));
	let calls = 0;
	await page.route('**/secrets', async (route) => {
		const reply = await route.fetch();
		if (++calls === 1) return route.fulfill({ response: reply });
		await held;
		const found = (await reply.json()) as { secrets: object[] };
		const more = Array.from({ length: 40 }, (_, index) => ({ ...found.secrets[0], name: `more${index}` }));
		await route.fulfill({ response: reply, json: { ...found, secrets: [...found.secrets, ...more] } });
	});
	await page.goto(`${url}/values`);
	const field = page.getByRole('textbox', { name: 'An expression to try' });
	await field.click();
	await field.pressSequentially('$upperc');
	const before = (await field.boundingBox())!.y;
	late();
	await expect(page.getByText('more39')).toBeVisible();
	await expect(field).toBeInViewport();
	await expect.poll(async () => Math.abs((await field.boundingBox())!.y - before)).toBeLessThan(3);
	await page.getByRole('option', { name: '$uppercase(text)' }).click();
	await expect(field).toContainText('$uppercase(');
});

/** The field to try expressions in, with the focus; the names that it completes come when they are let go. */
async function tryBeforeNames(page: Page, url: string): Promise<{ field: Locator; answer: () => void }> {
	let answer = () => {};
	const held = new Promise<void>((resolve) => (answer = resolve));
	await page.route('**/resolve?*', async (route) => {
		const reply = await route.fetch();
		await held;
		await route.fulfill({ response: reply });
	});
	await page.goto(`${url}/values`);
	const field = page.getByRole('textbox', { name: 'An expression to try' });
	await field.click();
	return { field, answer: () => answer() };
}

test('names that come late leave a list that is open as it is, and the next letter offers them', async ({
	page,
	bench
}) => {
	const url = await bench.project('steady');
	const { field, answer } = await tryBeforeNames(page, url);
	await field.pressSequentially('$upperc');
	const option = page.getByRole('option', { name: '$uppercase(text)' });
	await expect(option).toBeVisible();
	await option.evaluate((drawn) => drawn.setAttribute('data-drawn', 'before'));
	answer();
	await expect(page.getByText('everything resolves')).toBeVisible();
	// a press on what is drawn anew would go nowhere
	await expect(option).toHaveAttribute('data-drawn', 'before');
	await option.click();
	await field.pressSequentially('$env.cl');
	await page.getByRole('option', { name: /\$env\.clerk/ }).click();
	await expect(field).toContainText('$uppercase($env.clerk');
});

test('names that come late are offered to what was typed before', async ({ page, bench }) => {
	const url = await bench.project('names');
	const { field, answer } = await tryBeforeNames(page, url);
	await field.press('$');
	const list = page.getByRole('listbox', { name: 'Completions' });
	await expect(list).toBeVisible();
	await field.pressSequentially('env.cl');
	await expect(list).toBeHidden();
	const offered = page.getByRole('option', { name: /\$env\.clerk/ });
	answer();
	await offered.click();
	await expect(field).toContainText('$env.clerk');
});

test('a field of a body keeps the focus though the code of its form comes late', async ({ page, bench }) => {
	const url = await bench.project('late-form', {
		'collections/one.yaml':
			'heron: 1\ntitle: One\nconnection: mirror\nscenarios:\n  - id: s\n    title: S\n    steps:\n      - id: a\n        send: POST /x\n'
	});
	let comes = () => {};
	const late = new Promise<void>((resolve) => (comes = resolve));
	await page.route('**/_app/immutable/**/*.js', async (route) => {
		const response = await route.fetch();
		if ((await response.text()).includes('keep them as a schema')) await late;
		await route.fulfill({ response });
	});
	await page.goto(`${url}/collections/one`);
	await stepButton(page, 's', 'a').click();
	await page.getByRole('combobox', { name: 'Kind of body' }).selectOption('multipart');
	setTimeout(comes, 1500);
	const name = page.getByRole('textbox', { name: 'Name of part 1' });
	await name.click();
	await page.keyboard.press('Control+a');
	await page.keyboard.type('det');
	await expect(page.getByRole('region', { name: 'Text' })).toBeVisible();
	await page.keyboard.type('ails');
	await expect(name).toHaveValue('details');
});

test('what is added to a step has the focus, and names that are offered there are in sight as a whole', async ({
	page,
	bench
}) => {
	const url = await bench.project('added', {
		'collections/one.yaml':
			'heron: 1\ntitle: One\nconnection: mirror\nscenarios:\n  - id: s\n    title: S\n    steps:\n      - id: a\n        send: POST /x\n        body: { form: { n: 1 } }\n'
	});
	await page.goto(`${url}/collections/one#s/a`);
	const step = drawer(page, /^Step 1/);
	for (const [add, field] of [
		['Add a query parameter', 'Name of query 1'],
		['Add a header parameter', 'Name of header 1'],
		['add a field', 'Name of field 2']
	] as const) {
		await step.getByRole('button', { name: add }).click();
		await expect(step.getByRole('textbox', { name: field })).toBeFocused();
		// its letter would run the scenario
		await page.keyboard.type('r');
	}
	const value = step.getByRole('textbox', { name: 'Value of query r' });
	await value.click();
	await page.keyboard.type('{$env.');
	const list = page.getByRole('listbox', { name: 'Completions' });
	await expect(list.getByRole('option').first()).toBeVisible();
	const covered = () =>
		list.evaluate((whole) => {
			const { left, top, bottom } = whole.getBoundingClientRect();
			const at = [top + 4, (top + bottom) / 2, bottom - 4];
			return at.filter((y) => !whole.contains(document.elementFromPoint(left + 8, y)));
		});
	await expect.poll(covered).toEqual([]);
	// a sentence that comes above moves the line, and the list with it
	await expect(step.getByText('is not closed')).toBeVisible();
	await expect.poll(async () => (await list.boundingBox())!.y - (await value.boundingBox())!.y).toBeGreaterThan(15);
	await page.keyboard.press('Escape');
	await expect(page.getByRole('button', { name: 'Answer of step 1' })).toHaveText('–');

	await page.getByRole('button', { name: 'Kept by step 1' }).click();
	await step.getByRole('button', { name: 'keep a value' }).click();
	await expect(step.getByRole('textbox', { name: 'Name of kept value 1' })).toBeFocused();
	await page.getByRole('button', { name: 'Checks of step 1' }).click();
	await step.getByRole('button', { name: 'add a check' }).click();
	await expect(step.getByRole('combobox', { name: 'What check 1 looks at' })).toBeFocused();
});
