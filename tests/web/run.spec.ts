import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { accessible, expect, stepButton, test } from './fixtures.ts';

test('a scenario runs from the ledger, and the run sheet shows failures first with the exchange', async ({
	page,
	bench
}) => {
	const broken =
		'heron: 1\ntitle: Broken\nconnection: reedmere\nscenarios:\n  - id: s\n    title: Health\n    steps:\n      - id: fine\n        title: It is up\n        send: GET /health\n        checks: [{ status: 200 }]\n      - id: wrong\n        title: It says what it should\n        send: GET /health\n        checks:\n          - body: $.status\n            equals: closed\n      - id: away\n        title: Somebody is there\n        send: GET http://127.0.0.1:9/\n';
	const url = await bench.project('sheet', { 'collections/broken.yaml': broken });
	await page.goto(`${url}/collections/broken`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('button', { name: 'Checks of step 2' })).toContainText('1 of 1 fails');
	await expect(page.getByRole('button', { name: 'Checks of step 2' })).toContainText(
		'status: expected "closed", got "ok"'
	);
	await expect(page.getByRole('button', { name: 'Answer of step 3' })).toContainText('no answer');
	await page.getByRole('link', { name: 'open the run sheet' }).click();

	await expect(page.getByRole('heading', { level: 1 })).toHaveText(
		'Broken: 1 step failed, 1 could not be carried out, 1 passed'
	);
	const findings = page.getByRole('article');
	await expect(findings).toHaveCount(2);
	await expect(findings.first()).toContainText(/expected\s*"closed"\s*received\s*"ok"/);
	await expect(findings.nth(1)).toContainText('nothing listens at 127.0.0.1:9');
	await findings
		.first()
		.getByRole('button', { name: /^Open the exchange/ })
		.click();
	await expect(findings.first().getByRole('tree')).toContainText('"ok"');
	await accessible(page);
	await page.keyboard.press('n');
	await expect(findings.first()).toBeFocused();
	await page.getByRole('button', { name: /Health Broken/ }).click();
	await expect(page.getByRole('button', { name: /It is up/ })).toBeVisible();

	await page.getByRole('link', { name: 'Runs', exact: true }).click();
	await expect(page.getByRole('row', { name: /Broken/ })).toContainText('1 failed, 1 error');
	await accessible(page);
});

/** A server that answers at once, but for what is held until it is let go; and a collection of nine steps of which one is held. */
async function holding() {
	let go = () => {};
	const held = new Promise<void>((resolve) => (go = resolve));
	const server = createServer((request, response) => {
		if (request.url === '/held') void held.then(() => response.end());
		else response.end();
	}).listen(0, '127.0.0.1');
	await new Promise((resolve) => server.once('listening', resolve));
	const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
	const steps = Array.from(
		{ length: 8 },
		(_, i) => `      - { id: s${i}, send: "GET ${base}/${i === 4 ? 'held' : i}" }\n`
	);
	return {
		collection: `heron: 1\ntitle: Slow\nscenarios:\n  - id: s\n    title: Slow\n    steps:\n${steps.join('')}      - { id: clean, send: "GET ${base}/clean", cleanup: true }\n`,
		go,
		close: () => (server.closeAllConnections(), server.close())
	};
}

test('a run shows how far it is and can be stopped; clean-up runs', async ({ page, bench }) => {
	const slow = await holding();
	const url = await bench.project('stop', { 'collections/slow.yaml': slow.collection });
	await page.goto(`${url}/collections/slow`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('status').filter({ hasText: /^4 of 9/ })).toBeVisible();
	await page.getByRole('button', { name: 'Stop', exact: true }).click();
	await page.getByRole('link', { name: 'open the run sheet' }).click();
	await expect(page.getByText('stopped before its end')).toBeVisible();
	await page.getByRole('button', { name: /Slow Slow/ }).click();
	await expect(page.getByRole('button', { name: /GET \/clean/ })).toContainText('200');
	slow.close();
});

test('a page that comes back in the middle of a run goes on where it is', async ({ page, bench, context }) => {
	const slow = await holding();
	const url = await bench.project('back', { 'collections/slow.yaml': slow.collection });
	await page.goto(`${url}/suites`);
	const started = await page.request.post(`${bench.url}/api/projects/back/runs`, { data: { targets: ['slow'] } });
	const { id } = (await started.json()) as { id: string };
	await page.goto(`${url}/runs/${id}`);
	await expect(page.getByRole('status').filter({ hasText: /4 of 9/ })).toBeVisible();
	await page.close();
	const again = await context.newPage();
	await again.goto(`${url}/runs/${id}`);
	await expect(again.getByRole('progressbar', { name: 'Progress' })).toBeVisible();
	slow.go();
	await expect(again.getByRole('heading', { level: 1 })).toHaveText('Slow: 9 passed');
	slow.close();
});

test('a suite runs from its place', async ({ page, bench }) => {
	const url = await bench.project('suite');
	await page.goto(`${url}/suites`);
	await page.getByRole('button', { name: 'Run Smoke' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Smoke: 15 passed');
});

test('the environment is chosen in the waterline: other addresses, other results', async ({ page, bench }) => {
	const url = await bench.project('waterline');
	await page.goto(`${url}/collections/bookings`);
	await page.getByRole('combobox', { name: 'Environment' }).selectOption('staging');
	await stepButton(page, 'book-a-mooring', 'signIn').click();
	await page.getByRole('button', { name: 'as it will be sent' }).click();
	await expect(page.getByRole('region', { name: 'As it will be sent' })).toContainText(
		`to ${new URL(bench.standin('moorings-staging')).origin}`
	);
	await expect(page.getByRole('region', { name: 'As it will be sent' })).toContainText('‹clerkPassword›');
	await page.keyboard.press('Control+Enter');
	await expect(page.getByRole('button', { name: 'Answer of step 1' }).first()).toContainText('201');
	await page.reload();
	await expect(page.getByRole('combobox', { name: 'Environment' })).toHaveValue('staging');
});

test('what does not resolve is named there, and nothing is sent until it does', async ({ page, bench }) => {
	const url = await bench.project('unresolved', {
		'collections/one.yaml':
			'heron: 1\ntitle: One\nconnection: reedmere\nscenarios:\n  - id: s\n    title: S\n    steps:\n      - id: a\n        send: GET /moorings/{$env.brth}\n'
	});
	await page.goto(`${url}/collections/one`);
	await page.getByRole('button', { name: '1 unresolved' }).click();
	await expect(page.getByRole('region', { name: 'What does not resolve' })).toContainText(
		'$env.brth is not set: did you mean "berth"?'
	);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('status', { name: 'Messages' })).toContainText('$env.brth is not set');
	await page.getByRole('link', { name: 'set it' }).click();
	await expect(page.getByRole('textbox', { name: 'Name of a new variable' })).toBeFocused();
	await expect(page.getByRole('textbox', { name: 'Name of a new variable' })).toHaveValue('brth');
	await page.keyboard.press('Enter');
	await page.getByRole('textbox', { name: 'brth in local' }).fill('A-02');
	await page.keyboard.press('Tab');
	await expect(page.getByText('everything resolves')).toBeVisible();
	await page.getByRole('link', { name: 'Collections' }).click();
	await page.getByRole('link', { name: 'One', exact: true }).click();
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 1' })).toContainText('200');
	await page.getByRole('link', { name: 'Runs', exact: true }).click();
	await expect(page.getByRole('row')).toHaveCount(2);
});

test('a secret that is missing is set where the refusal leads to', async ({ page, bench }) => {
	const url = await bench.project('secretless', {
		'environments/local.yaml': 'heron: 1\nsecrets: [lockPin]\n',
		'collections/one.yaml':
			'heron: 1\ntitle: One\nscenarios:\n  - id: s\n    title: S\n    steps:\n      - id: a\n        set: { pin: "{$secret.lockPin}" }\n'
	});
	await page.goto(`${url}/collections/one`);
	await page.getByRole('button', { name: 'Run all' }).click();
	const messages = page.getByRole('status', { name: 'Messages' });
	await expect(messages).toContainText('$secret.lockPin is not set');
	await messages.getByRole('link', { name: 'set it' }).click();
	const dialog = page.getByRole('dialog', { name: 'Secret lockPin' });
	await expect(dialog).toBeVisible();
	await page.keyboard.press('Escape');
	await expect(dialog).toBeHidden();
	// the way is there as often as it is needed
	await page.getByRole('button', { name: /unresolved/ }).click();
	await page
		.getByRole('region', { name: 'What does not resolve' })
		.getByRole('listitem')
		.filter({ hasText: '$secret.lockPin' })
		.getByRole('link', { name: 'set it' })
		.click();
	await dialog.getByLabel('Its value').fill('7-4-1-9-heron');
	await page.keyboard.press('Enter');
	await expect(dialog).toBeHidden();
	await expect(page.getByText('$secret.lockPin')).toHaveCount(0);
	await page.goto(`${url}/collections/one`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('contentinfo')).toContainText('last run: 1 passed');
});

test('a server that is slow to begin is waited for in sight', async ({ page, bench }) => {
	const url = await bench.project('slow-start');
	let go = () => {};
	const held = new Promise<void>((resolve) => (go = resolve));
	await page.route('**/api/projects/slow-start/runs', async (route) => {
		await held;
		await route.continue();
	});
	await page.goto(`${url}/collections/bookings`);
	await stepButton(page, 'book-a-mooring', 'signIn').click();
	const send = page.getByRole('button', { name: 'Send this step' });
	await send.click();
	await expect(page.getByText('starting…')).toBeVisible();
	await expect(send).toBeDisabled();
	await expect(page.getByRole('button', { name: 'Run all' })).toBeDisabled();
	go();
	await expect(page.getByRole('button', { name: 'Answer of step 1' }).first()).toContainText('201');
	await expect(page.getByText('starting…')).toBeHidden();
});

test('odd answers are shown as what they are', async ({ page, bench }) => {
	const mirror = bench.standin('mirror');
	const paths = ['wrong-json', 'wrong-utf8', 'deep/100000', 'bytes/200000000', 'redirect/2', 'status/204'];
	const text = `heron: 1\ntitle: Odd\nscenarios:\n  - id: s\n    title: S\n    steps:\n${paths.map((path, i) => `      - { id: s${i}, send: "GET ${mirror}/${path}" }\n`).join('')}`;
	const url = await bench.project('odd', { 'collections/odd.yaml': text });
	await page.goto(`${url}/collections/odd`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('link', { name: 'open the run sheet' })).toBeVisible();
	const says = async (step: number, ...words: (string | RegExp)[]) => {
		// the one before is closed: rows that are out of sight are not drawn
		await page.keyboard.press('Escape');
		await stepButton(page, 's', `s${step}`).click();
		for (const word of words)
			await expect(page.getByRole('region', { name: `Step ${step + 1}: s${step}` })).toContainText(word);
	};
	await says(0, 'the header says application/json, but the body is not JSON', 'Not JSON at all');
	await says(1, 'some bytes are not utf-8');
	await says(2, '1 item');
	await says(3, 'The body is cut at 50 MB', '50 MB');
	await says(4, '3 redirects', '302');
	await says(5, 'The body is empty.');
});

test('a run is removed when that was asked twice; a project when its name was written', async ({ page, bench }) => {
	const url = await bench.project('removed');
	await bench.project('stays');
	await page.goto(`${url}/collections/first-look`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await page
		.getByRole('contentinfo')
		.getByRole('link', { name: /^last run: 4 passed/ })
		.click();
	await expect(page.getByRole('heading', { level: 1, name: /4 passed/ })).toBeVisible();
	await page.getByRole('button', { name: 'remove…' }).click();
	await accessible(page);
	await page.getByRole('button', { name: 'keep it' }).click();
	await page.getByRole('button', { name: 'remove…' }).click();
	await page.getByRole('button', { name: 'Remove this run' }).click();
	await expect(page.getByText('Nothing ran yet.')).toBeVisible();
	await expect(page.getByRole('contentinfo')).not.toContainText('last run');

	await page.locator('summary').first().click();
	await page.getByRole('button', { name: 'Remove…' }).click();
	const dialog = page.getByRole('dialog', { name: /^Remove / });
	await accessible(page);
	const remove = dialog.getByRole('button', { name: 'Remove the project' });
	await expect(remove).toBeDisabled();
	await dialog.getByRole('textbox', { name: 'Name of the project' }).fill('removed');
	await remove.click();
	await expect(page).toHaveURL(/\/projects$/);
	const { projects: names } = (await (await page.request.get(`${bench.url}/api/projects`)).json()) as {
		projects: { name: string }[];
	};
	expect(names.map(({ name }) => name)).toContain('stays');
	expect(names.map(({ name }) => name)).not.toContain('removed');
});

test('cookies of steps that are sent by hand stay with the browser that sent them', async ({
	page,
	bench,
	browser
}) => {
	const asked: string[] = [];
	const server = createServer((request, response) => {
		asked.push(`${request.url} ${request.headers.cookie ?? 'no cookie'}`);
		response.writeHead(200, request.url === '/in' ? { 'set-cookie': 'session=robin' } : {}).end('{}');
	}).listen(0, '127.0.0.1');
	await new Promise((resolve) => server.once('listening', resolve));
	const { port } = server.address() as AddressInfo;
	const url = await bench.project('visitors', {
		'connections/own.yaml': `heron: 1\nbase: http://127.0.0.1:${port}\n`,
		'collections/look.yaml':
			'heron: 1\ntitle: Look\nconnection: own\nscenarios:\n  - id: s\n    title: Look\n    steps:\n      - { id: in, send: GET /in }\n      - { id: use, send: GET /use }\n'
	});
	const send = async (on: typeof page, step: 'in' | 'use') => {
		const before = asked.length;
		await on.goto(`${url}/collections/look#s/${step}`);
		await on.getByRole('region', { name: new RegExp(`: ${step}$`) }).waitFor();
		await on.keyboard.press('Control+Enter');
		await expect.poll(() => asked.length).toBe(before + 1);
		// what it leaves behind is told when it has ended
		await expect(on.getByRole('region', { name: /^Step/ }).getByText('200 OK')).toBeVisible();
		return asked.at(-1)!;
	};
	const other = await (await browser.newContext()).newPage();
	expect(await send(page, 'in')).toBe('/in no cookie');
	expect(await send(page, 'use')).toBe('/use session=robin');
	expect(await send(other, 'use')).toBe('/use no cookie');
	expect(await send(page, 'use')).toBe('/use session=robin');
	await other.context().close();
	server.close();
});

const long = `heron: 1
title: Long
scenarios:
  - id: list
    title: A list
    rows: { data: numbers, types: { n: number } }
    steps:
      - { id: make, title: Make, set: { n: "{$row.n % 10 = 3 ? $number('x') : $row.n}" } }
  - id: loop
    title: A loop
    steps:
      - { id: pass, title: A pass, each: numbers, set: { m: "{$row.n}" } }
      - { id: last, title: The last, set: { z: 1 } }
`;
const numbers = `n\n${Array.from({ length: 650 }, (_, n) => n + 1).join('\n')}\n`;

test('a long run is read a page at a time, and what needs a look comes first', async ({ page, bench }) => {
	const url = await bench.project('long', { 'collections/long.yaml': long, 'datasets/numbers.csv': numbers });
	const started = await page.request.post(`${bench.url}/api/projects/long/runs`, { data: { targets: ['long'] } });
	const { id } = (await started.json()) as { id: string };
	await page.goto(`${url}/runs/${id}`);
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Long: 65 could not be carried out, 1236 passed');
	// what comes first is small, however long the run is
	const first = await (await page.request.get(`${bench.url}/api/runs/${id}`)).text();
	expect(first.length).toBeLessThan(20_000);

	for (const wrong of ['of=nothing', 'of=row&row=abc', 'of=scenario&from=-1', 'of=named&seqs=1,x'])
		expect((await page.request.get(`${bench.url}/api/runs/${id}/results?${wrong}`)).status(), wrong).toBe(400);

	const findings = page.getByRole('article');
	await expect(findings).toHaveCount(1);
	await page.getByRole('button', { name: 'and 64 more with the same cause' }).click();
	await expect(page.getByRole('article', { name: 'error: Make' }).nth(3)).toBeVisible();
	await page.getByRole('button', { name: 'hide 64 more with the same cause' }).click();
	await expect(findings).toHaveCount(1);

	await page.getByRole('button', { name: /A list Long/ }).click();
	await expect(page.getByText('numbers.csv: 585 of 650 rows passed')).toBeVisible();
	await page.getByRole('button', { name: 'Row 3, error' }).click();
	await expect(page.getByRole('button', { name: /Make/ }).first()).toBeVisible();
	const pages = page.getByRole('navigation', { name: 'Pages of rows', exact: true });
	await expect(pages).toContainText('rows 1 to 200 of 650');
	await accessible(page);
	await pages.getByRole('button', { name: 'later' }).click();
	await expect(page.getByRole('button', { name: 'Row 201, passed' })).toBeVisible();
	await expect(pages).toContainText('rows 201 to 400 of 650');
	await pages.getByRole('button', { name: 'last' }).click();
	await expect(page.getByRole('button', { name: 'Row 601, passed' })).toBeVisible();
	await expect(pages).toContainText('rows 601 to 650 of 650');
	await expect(pages.getByRole('button', { name: 'later' })).toBeDisabled();
	await pages.getByRole('button', { name: 'first' }).click();
	await page.getByLabel('only those that did not pass').check();
	await expect(page.getByRole('button', { name: 'Row 3, error' })).toBeVisible();
	await expect(page.getByRole('button', { name: 'Row 4, passed' })).toHaveCount(0);

	const file = await page.getByRole('link', { name: 'set aside as CSV' }).getAttribute('href');
	const aside = await (await page.request.get(`${bench.url}${file}`)).text();
	expect(aside.trim().split('\n')).toHaveLength(66);
	await page.getByRole('button', { name: 'Run these 65 rows again' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText(/A list: 65 could not be carried out$/);

	// a link to a step goes to the page that it stands on
	await page.goto(`${url}/runs/${id}#long/loop/last`);
	await expect(page.getByRole('button', { name: /The last/ })).toBeVisible();
	await expect(page.getByRole('navigation', { name: 'Pages of results, below' })).toContainText(
		'results 601 to 651 of 651'
	);
});

test('what is unfolded of a run that goes on fills while one looks', async ({ page, bench }) => {
	const slow = await holding();
	const url = await bench.project('grows', { 'collections/slow.yaml': slow.collection });
	const started = await page.request.post(`${bench.url}/api/projects/grows/runs`, { data: { targets: ['slow'] } });
	const { id } = (await started.json()) as { id: string };
	await page.goto(`${url}/runs/${id}`);
	await page.getByRole('button', { name: /Slow Slow/ }).click();
	const steps = page.getByRole('button', { name: /GET \/(\d|held)/ });
	await expect(steps).toHaveCount(4);
	await expect(page.getByRole('progressbar', { name: 'Progress' })).toBeVisible();
	slow.go();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('Slow: 9 passed');
	await expect(steps).toHaveCount(8);
	slow.close();
});

test('a run of a project without a title has a name, and leads to its page', async ({ page, bench }) => {
	const files = Object.entries({
		'heron.yaml': 'heron: 1\n',
		'collections/a.yaml': 'heron: 1\nscenarios:\n  - id: s\n    steps:\n      - { id: a, set: { n: 1 } }\n'
	}).map(([path, text]) => ({ path, base64: Buffer.from(text).toString('base64') }));
	await page.request.post(`${bench.url}/api/projects`, { data: { name: 'untitled', files, replace: true } });
	await page.request.post(`${bench.url}/api/projects/untitled/runs`, { data: { targets: [] } });
	await page.goto(`${bench.url}/untitled/runs`);
	await page.getByRole('link', { name: 'All scenarios' }).click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('All scenarios: 1 passed');
});
