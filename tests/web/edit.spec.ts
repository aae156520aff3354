import sqlite3 from 'sqlite3';
import { accessible, expect, saved, stepButton, test } from './fixtures.ts';

const order = async (page: import('@playwright/test').Page) =>
	page.locator('[data-step]').evaluateAll((rows) => rows.map((row) => (row as HTMLElement).dataset.step));
const file = (steps: string[]) =>
	`# kept\nheron: 1\ntitle: Order\nconnection: mirror\nscenarios:\n  - id: s\n    title: S\n    steps:\n${steps.map((id) => `      - id: ${id} # ${id}\n        send: GET /${id}\n`).join('')}`;

test('steps are added, duplicated, moved, switched off and deleted by keyboard, and all of it can be taken back', async ({
	page,
	bench
}) => {
	const url = await bench.project('keys', { 'collections/order.yaml': file(['a', 'b', 'c']) });
	await page.goto(`${url}/collections/order`);
	await stepButton(page, 's', 'b').focus();
	await page.keyboard.press('Alt+ArrowUp');
	await expect.poll(() => order(page)).toEqual(['b', 'a', 'c']);
	await page.keyboard.press('d');
	await expect.poll(() => order(page)).toEqual(['b', 'b2', 'a', 'c']);
	await page.keyboard.press('o');
	await expect(page.getByText('switched off')).toBeVisible();
	await page.keyboard.press('Delete');
	await expect.poll(() => order(page)).toEqual(['b', 'a', 'c']);
	await page.keyboard.press('ArrowDown');
	await expect(stepButton(page, 's', 'c')).toBeFocused();
	for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
	await expect.poll(() => order(page)).toEqual(['a', 'b', 'c']);
	await page.keyboard.press('Control+Shift+z');
	await expect.poll(() => order(page)).toEqual(['b', 'a', 'c']);
	await saved(page);
	// comments and untouched lines are where their steps are
	await expect.poll(() => bench.file('keys', 'collections/order.yaml')).toBe(file(['b', 'a', 'c']));
});

test('a save is one request, and a project of a thousand collections is as light as one of three', async ({
	page,
	bench
}) => {
	const many = Object.fromEntries(
		Array.from({ length: 1000 }, (_, n) => [`collections/c${n}.yaml`, file(['a', 'b']).replace('Order', `Order ${n}`)])
	);
	const url = await bench.project('many', { 'collections/order.yaml': file(['a', 'b', 'c']), ...many });
	const first = await page.request.get(`${url}/collections/order`);
	expect((await first.body()).length).toBeLessThan(200_000);
	await page.goto(`${url}/collections/order`);
	await stepButton(page, 's', 'b').focus();
	// what is asked for when a page opens has been answered
	await page.waitForLoadState('networkidle');
	const asked: string[] = [];
	page.on('request', (request) => asked.push(`${request.method()} ${new URL(request.url()).pathname}`));
	await page.keyboard.press('Alt+ArrowUp');
	await saved(page);
	await expect.poll(() => bench.file('many', 'collections/order.yaml')).toBe(file(['b', 'a', 'c']));
	expect(asked.filter((one) => one.includes('/api/') && !one.includes('bench'))).toEqual([
		'PUT /api/projects/many/files/collections/order.yaml'
	]);
	// and its title is found, and is new, where collections are listed
	await page.getByRole('link', { name: 'Collections' }).click();
	await expect(page.getByText('Order 0', { exact: true })).toBeVisible();
	await page.keyboard.press('/');
	await page.getByRole('combobox', { name: 'Find' }).fill('order 999');
	await expect(page.getByRole('option', { name: /Order 999/ })).toBeVisible();
	await page.keyboard.press('Escape');
	// a new one gets a name that is free
	await page.getByRole('button', { name: 'New collection' }).click();
	await page.getByLabel('Its title').fill('Order');
	await page.keyboard.press('Enter');
	await expect(page).toHaveURL(/\/many\/collections\/order-?2$/);
});

test('a step is dragged to another place', async ({ page, bench }) => {
	const url = await bench.project('drag', { 'collections/order.yaml': file(['a', 'b', 'c']) });
	await page.goto(`${url}/collections/order`);
	await stepButton(page, 's', 'c').hover();
	await page
		.getByRole('button', { name: 'Move step 3: drag, or Alt with the arrow keys' })
		.dragTo(stepButton(page, 's', 'a'));
	await expect.poll(() => order(page)).toEqual(['c', 'a', 'b']);
});

test('a scenario is dragged before another', async ({ page, bench }) => {
	const two = `${file(['a'])}  - id: t\n    title: T\n    steps: []\n`;
	const url = await bench.project('drag-scenario', { 'collections/order.yaml': two });
	await page.goto(`${url}/collections/order`);
	const titles = page.getByRole('textbox', { name: 'Title of the scenario' });
	await expect(titles).toHaveCount(2);
	await titles.nth(1).hover();
	await page.getByRole('button', { name: 'Move T: drag, or choose in its menu' }).dragTo(titles.first());
	await expect(titles.first()).toHaveValue('T');
	await saved(page);
	await expect
		.poll(() => bench.file('drag-scenario', 'collections/order.yaml'))
		.toMatch(/- id: t\n[\s\S]*- id: s\n[\s\S]*- id: a # a/);
});

test('scenarios are duplicated, moved and deleted, with undo', async ({ page, bench }) => {
	const url = await bench.project('scenarios', { 'collections/order.yaml': file(['a']) });
	await page.goto(`${url}/collections/order`);
	const titles = () =>
		page
			.getByRole('textbox', { name: 'Title of the scenario' })
			.evaluateAll((all) => all.map((one) => (one as HTMLInputElement).value));
	await page.getByLabel('More for S', { exact: true }).click();
	await page.getByRole('button', { name: 'duplicate', exact: true }).click();
	await expect.poll(titles).toEqual(['S', 'S (copy)']);
	await page.getByLabel('More for S (copy)').click();
	await page.getByRole('button', { name: 'move up' }).click();
	await expect.poll(titles).toEqual(['S (copy)', 'S']);
	await page.getByLabel('More for S (copy)').click();
	await page.getByRole('button', { name: 'delete', exact: true }).click();
	await expect.poll(titles).toEqual(['S']);
	await page.getByRole('status', { name: 'Messages' }).getByRole('button', { name: 'undo' }).click();
	await expect.poll(titles).toEqual(['S (copy)', 'S']);
});

test('two pages on one collection never overwrite each other silently', async ({ page, bench, context }) => {
	const url = await bench.project('two', { 'collections/order.yaml': file(['a', 'b']) });
	await page.goto(`${url}/collections/order`);
	const other = await context.newPage();
	await other.goto(`${url}/collections/order`);
	await page.getByRole('textbox', { name: 'Title of the collection' }).fill('Mine');
	await saved(page);
	await expect.poll(() => bench.file('two', 'collections/order.yaml')).toContain('title: Mine');
	await other.getByRole('textbox', { name: 'Title of the scenario' }).fill('Theirs');
	await expect(other.getByRole('alert')).toContainText('Changed elsewhere');
	expect(await bench.file('two', 'collections/order.yaml')).not.toContain('Theirs');
	// who goes elsewhere would lose it, and is told first
	await other.getByRole('link', { name: 'Runs', exact: true }).click();
	await expect(other.getByText('If you leave now, it is gone')).toBeVisible();
	await other.getByRole('button', { name: 'keep mine' }).click();
	await expect.poll(() => bench.file('two', 'collections/order.yaml')).toContain('title: Theirs');
});

test('a step’s id is renamed where it is used', async ({ page, bench }) => {
	const url = await bench.project('rename');
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'book').click();
	await page.getByRole('textbox', { name: 'Id', exact: true }).fill('reserve');
	await page.keyboard.press('Tab');
	await saved(page);
	const text = await bench.file('rename', 'collections/bookings.yaml');
	expect(text).toContain('- id: reserve');
	expect(text).toContain('{$steps.reserve.reference}');
	expect(text).not.toContain('$steps.book.');
});

test('what is wrong is said on the row and in the drawer; nothing typed is lost, and nothing runs', async ({
	page,
	bench
}) => {
	const url = await bench.project('wrong', { 'collections/order.yaml': file(['a']).replace('GET /a', 'GET a') });
	await page.goto(`${url}/collections/order`);
	await expect(page.getByText(/the path starts with a slash/).first()).toBeVisible();
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('status', { name: 'Messages' })).toContainText('the project has 1 problem');
});

test('five thousand steps stay smooth', async ({ page, bench }) => {
	test.setTimeout(120_000);
	const ids = Array.from({ length: 5000 }, (_, i) => `s${i}`);
	const url = await bench.project('large', { 'collections/order.yaml': file(ids) });
	await page.goto(`${url}/collections/order`);
	await expect(stepButton(page, 's', 's0')).toBeVisible();
	expect(await page.locator('[data-step]').count()).toBeLessThan(120);
	await page.goto(`${url}/collections/order#s/s4321`);
	await expect(page.getByRole('region', { name: 'Step 4322: s4321' })).toBeVisible();
	await stepButton(page, 's', 's4321').focus();
	await page.keyboard.press('ArrowDown');
	await expect(stepButton(page, 's', 's4322')).toBeFocused();
	// an edit in the middle is saved as one line
	await page
		.getByRole('region', { name: 'Step 4322: s4321' })
		.getByRole('textbox', { name: 'Title', exact: true })
		.fill('in the middle');
	await expect(page.getByText(/^saved/).first()).toBeVisible({ timeout: 60_000 });
	const text = await bench.file('large', 'collections/order.yaml');
	expect(text.split('\n').length).toBe(file(ids).split('\n').length + 1);
	expect(text).toContain('title: in the middle');
});

test('a file that is not YAML is mended as text, and nothing writes over it', async ({ page, bench }) => {
	const broken = 'heron: 1\ntitle: "Half\nscenarios: []\n';
	const url = await bench.project('broken', { 'collections/order.yaml': broken });
	await page.goto(`${url}/collections`);
	await expect(page.getByRole('region', { name: 'What is wrong in the files' })).toContainText('this is not YAML');
	await page.goto(`${url}/collections/order`);
	await expect(page.getByRole('heading', { name: 'collections/order.yaml' })).toBeVisible();
	await expect(page.getByRole('list', { name: 'Problems' })).toContainText(/line \d: this is not YAML/);
	await accessible(page);
	const text = page.getByRole('textbox', { name: 'Text of collections/order.yaml' });
	await text.getByText('title: "Half').click();
	await page.keyboard.press('End');
	await page.keyboard.type(' done"');
	await expect(page.getByText('Nothing is wrong in this file.')).toBeVisible();
	await page.keyboard.press('Control+s');
	await page.getByRole('link', { name: 'back to its page' }).click();
	await expect(page.getByRole('textbox', { name: 'Title of the collection' })).toHaveValue('Half done');
});

test('while the database is locked nothing that was typed is lost; it is saved when the lock is gone', async ({
	page,
	bench
}) => {
	const url = await bench.project('locked', { 'collections/order.yaml': file(['a']) });
	await page.goto(`${url}/collections/order`);
	await expect(stepButton(page, 's', 'a')).toBeVisible();
	const other = new sqlite3.Database(bench.database);
	const exec = (sql: string) =>
		new Promise<void>((resolve, reject) => other.exec(sql, (error) => (error ? reject(error) : resolve())));
	await exec('PRAGMA busy_timeout=5000; BEGIN IMMEDIATE');
	await page.getByRole('textbox', { name: 'Title of the collection' }).fill('Typed under lock');
	await expect(page.getByRole('alert')).toContainText('not saved yet, trying again: the database cannot be written');
	await page.getByRole('textbox', { name: 'Title of the collection' }).click();
	const asked = page.waitForEvent('dialog');
	await page.close({ runBeforeUnload: true });
	await (await asked).dismiss();
	await exec('ROLLBACK');
	await new Promise((resolve) => other.close(resolve));
	await saved(page);
	await expect.poll(() => bench.file('locked', 'collections/order.yaml')).toContain('Typed under lock');
});

test('a scenario gets inputs and outputs, and another id that all who name it take over', async ({ page, bench }) => {
	const url = await bench.project('inout', {
		'suites/night.yaml': 'heron: 1\ntitle: Night\nscenarios: [gauges/sign-in, gauges]\n'
	});
	await page.goto(`${url}/collections/gauges#sign-in`);
	await page.getByRole('button', { name: 'More for Sign in' }).click();
	await page.getByRole('button', { name: 'id, inputs and outputs' }).click();
	const table = page.getByRole('table', { name: 'Inputs and outputs of Sign in' });
	// its part of the page comes when it is asked for
	await expect(table.getByRole('row').first()).toBeVisible();
	const before = await table.getByRole('row').count();
	await page.getByRole('button', { name: 'add an input' }).click();
	await expect(table.getByRole('row')).toHaveCount(before + 1);
	await table
		.getByRole('textbox', { name: /^Name of in/ })
		.last()
		.fill('harbour');
	await accessible(page);
	await saved(page);
	await expect.poll(() => bench.file('inout', 'collections/gauges.yaml')).toMatch(/harbour:/);

	const id = page.getByRole('textbox', { name: 'Id of Sign in' });
	await id.fill('enter');
	await id.press('Tab');
	await expect(page.getByText('sign-in is enter now, also in suites/night.yaml.')).toBeVisible();
	const file = await bench.file('inout', 'collections/gauges.yaml');
	expect(file).toContain('- id: enter');
	expect(file).toContain('call: enter');
	await expect.poll(() => bench.file('inout', 'suites/night.yaml')).toContain('[gauges/enter, gauges]');
	// what is typed before the page has heard of it is meant for the scenario as it is then
	await page.route('**/files/collections/gauges.yaml*', async (route) => {
		if (route.request().method() === 'GET') await new Promise((resolve) => setTimeout(resolve, 1500));
		await route.continue();
	});
	await page.getByRole('button', { name: 'undo', exact: true }).last().click();
	await expect.poll(() => bench.file('inout', 'suites/night.yaml')).toContain('[gauges/sign-in, gauges]');
	// two of one name would be one
	await id.fill('survey');
	await id.press('Tab');
	await expect(page.getByText(/there is survey already/)).toBeVisible();
	await expect(id).toHaveValue('sign-in');
});

test('a scenario is added from the head or by a key, with its title ready to be written', async ({ page, bench }) => {
	const url = await bench.project('added');
	await page.goto(`${url}/collections/bookings`);
	await page.getByRole('button', { name: '+ scenario' }).click();
	const titles = page.getByLabel('Title of the scenario');
	await expect(titles.last()).toBeFocused();
	await page.keyboard.type('The last one');
	await saved(page);
	await expect
		.poll(() => bench.file('added', 'collections/bookings.yaml'))
		.toMatch(/title: The last one\n\s+steps: \[\]/);
	await page.keyboard.press('Escape');
	await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
	await page.keyboard.press('s');
	await expect(titles.last()).toHaveValue('New scenario');
	await expect(titles.last()).toBeFocused();
});

test('in a long collection a new scenario behind all others is gone to, and a step that a key adds has the focus', async ({
	page,
	bench
}) => {
	const scenario = (n: number) =>
		`  - id: s${n}\n    title: Number ${n}\n    steps:\n${[0, 1, 2, 3, 4, 5].map((step) => `      - { id: a${step}, send: GET /moorings }\n`).join('')}`;
	const url = await bench.project('long', {
		'collections/long.yaml': `heron: 1\ntitle: Long\nscenarios:\n${Array.from({ length: 80 }, (_, n) => scenario(n)).join('')}`
	});
	await page.goto(`${url}/collections/long#s20/a3`);
	await expect(stepButton(page, 's20', 'a3')).toBeFocused();
	await page.keyboard.press('a');
	const added = stepButton(page, 's20', 'step');
	await expect(added).toBeFocused();
	await expect(added).toBeInViewport();
	await page.getByRole('button', { name: '+ scenario' }).click();
	const title = page.getByLabel('Title of the scenario').last();
	await expect(title).toBeFocused();
	await expect(title).toBeInViewport();
	await page.keyboard.type('The last one');
	await saved(page);
	await expect
		.poll(() => bench.file('long', 'collections/long.yaml'))
		.toMatch(/title: The last one\n\s+steps: \[\]\n$/);
});

test('a step that sends nothing offers no answer, checks or kept values that it cannot have', async ({
	page,
	bench
}) => {
	const url = await bench.project('quiet', {
		'collections/quiet.yaml': `heron: 1
title: Quiet
scenarios:
  - id: s
    title: S
    steps:
      - { id: pause, wait: 10 ms }
      - { id: sum, script: "keep('sum', 3);\\nequal('the sum', 3, 4);" }
`
	});
	await page.goto(`${url}/collections/quiet`);
	await stepButton(page, 's', 'pause').click();
	const pause = page.getByRole('region', { name: 'Step 1: pause' });
	await expect(pause.getByText('gets no answer. It is carried out when its scenario runs')).toBeVisible();
	await page.getByRole('button', { name: 'checks', exact: true }).click();
	await expect(pause.getByText('checks nothing itself')).toBeVisible();
	await expect(pause.getByRole('button', { name: 'add a check' })).toHaveCount(0);
	await page.getByRole('button', { name: 'keep', exact: true }).click();
	await expect(pause.getByText('keeps nothing')).toBeVisible();

	await stepButton(page, 's', 'sum').click();
	const sum = page.getByRole('region', { name: 'Step 2: sum' });
	await page.keyboard.press('Control+Enter');
	await page.getByRole('button', { name: 'checks', exact: true }).click();
	const verdicts = sum.getByRole('list', { name: 'Verdicts' }).getByRole('listitem');
	await expect(verdicts).toHaveText(/the sum.*4.*received 3/);
	await expect(sum.getByRole('button', { name: 'as text' })).toHaveCount(0);
	await page.getByRole('button', { name: 'keep', exact: true }).click();
	await expect(sum.getByRole('table', { name: 'Kept values' })).toContainText('sum');
	await accessible(page);
});

test('a call is made again until an expression holds', async ({ page, bench }) => {
	const url = await bench.project('again', {
		'collections/again.yaml': `heron: 1
title: Again
connection: reedmere
scenarios:
  - id: poll
    title: Poll
    outputs: { count: '{$count($steps.list.all)}' }
    steps:
      - { id: list, send: GET /moorings, checks: [{ status: 200 }], keep: { all: '$[*]' } }
  - id: s
    title: S
    steps:
      - { id: found, call: poll }
`
	});
	await page.goto(`${url}/collections/again`);
	await stepButton(page, 's', 'found').click();
	const step = page.getByRole('region', { name: 'Step 1: found' });
	await step.getByRole('button', { name: 'more' }).click();
	const until = step.getByLabel('Carried out again until');
	await expect(until.getByRole('option')).toHaveText(['carried out once', 'all passes', 'that']);
	await until.selectOption('that');
	await step.getByLabel('What it waits for').fill('$steps.found.count > 1');
	// a field that is read when it is left counts as it stands
	await step.getByLabel('Time between two tries').fill('100 ms');
	await page.keyboard.press('Control+Enter');
	await expect
		.poll(() => bench.file('again', 'collections/again.yaml'))
		.toContain('until: { that: $steps.found.count > 1, every: 100 ms }');
	await expect(step.getByText('in all. What was done within it stands below the step')).toBeVisible();
	await accessible(page);

	await step.getByLabel('Time for all tries').fill('9 s');
	const asked = page.waitForEvent('dialog');
	await page.close({ runBeforeUnload: true });
	await (await asked).dismiss();
	await expect.poll(() => bench.file('again', 'collections/again.yaml')).toContain('every: 100 ms, within: 9 s }');
});

test('steps, scenarios and tags that are there twice are shown, and told apart', async ({ page, bench }) => {
	const scenario = `  - id: night
    title: At night
    tags: [smoke, smoke]
    steps:
      - { id: look, send: GET /locks }
      - { id: look, send: GET /berths }
`;
	const url = await bench.project('twice', {
		'collections/a-twice.yaml': `heron: 1\ntitle: Twice\nconnection: reedmere\nscenarios:\n${scenario}${scenario}`
	});
	await page.goto(`${url}/collections`);
	await expect(page.getByRole('link', { name: 'At night' })).toHaveCount(2);
	await page.getByRole('link', { name: 'Twice', exact: true }).click();
	const second = page.getByRole('button', { name: /GET \/berths/ }).first();
	await expect(page.getByRole('button', { name: /GET \/(locks|berths)/ })).toHaveCount(4);
	await expect(page.getByText('the id "look" is used twice here: entry 1 has it already').first()).toBeVisible();
	await second.click();
	const id = page.getByLabel('Id', { exact: true }).nth(1);
	await id.fill('find');
	await id.press('Enter');
	await expect
		.poll(() => bench.file('twice', 'collections/a-twice.yaml'))
		.toMatch(/- \{ id: look, send: GET \/locks \}\n\s+- \{ id: find, send: GET \/berths \}\n {2}- id: night/);
});
