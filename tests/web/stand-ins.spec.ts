import { accessible, expect, saved, test } from './fixtures.ts';

interface StandIn {
	name: string;
	running?: { address: string };
}

const files = {
	'environments/local.yaml': 'heron: 1\nvariables: { clerk: avery }\n',
	'connections/board.yaml': 'heron: 1\nbase: https://board.reedmere.example\n',
	'collections/board.yaml':
		'heron: 1\ntitle: Board\nconnection: board\nscenarios:\n  - id: one\n    title: A notice\n    steps:\n      - { id: read, title: Read it, send: GET /notices/N-7, checks: [{ status: 200 }, { body: $.number, equals: N-7 }] }\n',
	'heron.yaml': 'heron: 1\ntitle: Board\nenvironment: local\ntrace: true\n'
};

test('a stand-in is designed, tried, started, called, and followed through its log', async ({ page, bench }) => {
	const url = await bench.project('stand-in', files);
	await page.goto(`${url}/stand-ins`);
	await page.getByRole('button', { name: 'New stand-in' }).click();
	await page.getByLabel('Title of the new stand-in').fill('Own board');
	await page.getByRole('button', { name: 'Make it' }).click();
	await expect(page).toHaveURL(/stand-ins\/own-board$/);
	await expect(page.getByText('It answers nothing of its own yet.')).toBeVisible();
	await accessible(page);

	await page.getByRole('button', { name: 'add an answer' }).click();
	await page.getByLabel('Method and path').fill('GET /notices/{number}');
	await page.getByLabel('Title of the answer').fill('One notice');
	await page.getByRole('button', { name: 'add a check' }).click();
	await page.getByLabel('What check 1 looks at').selectOption('path');
	await page.getByLabel('Where check 1 looks').fill('number');
	await page.getByLabel('Expected by check 1').fill('^N-');
	const body = page.getByLabel('Body of the answer, json');
	await body.click();
	await page.keyboard.press('Control+A');
	await page.keyboard.insertText('{ "number": "{$path.number}", "asked": "{$asked}" }');
	await saved(page);

	await page.getByLabel('Path and query of the request that is tried').fill('/notices/N-7');
	await page.getByRole('button', { name: /Ask it/ }).click();
	const answer = page.getByRole('region', { name: 'Its answer' });
	await expect(answer).toContainText('"number": "N-7"');
	await expect(page.getByRole('region', { name: 'How it comes about' })).toContainText('$path.number');
	await accessible(page);
	await page.getByLabel('Path and query of the request that is tried').fill('/notices/x');
	await page.keyboard.press('Control+Enter');
	await expect(page.getByRole('region', { name: 'How it comes about' })).toContainText(
		'does not fit: path number matches "^N-": it is "x"'
	);
	await expect(answer).toContainText('404');

	await page.getByRole('button', { name: 'settings' }).click();
	await page.getByLabel('Stand in for a connection in local').selectOption('board');
	await expect(page.getByText('own-board does not run')).toBeVisible();
	await page.getByRole('button', { name: 'unavailable' }).click();
	await saved(page);
	await accessible(page);
	await page.getByRole('button', { name: 'Start', exact: true }).click();
	await expect(page.getByText(/runs since .* in local/)).toBeVisible();
	await expect(page.getByText('board is stood in')).toBeVisible();

	// calls of the connection go to it
	const started = await page.request.post(`${bench.url}/api/projects/stand-in/runs`, { data: { targets: ['board'] } });
	const { id } = (await started.json()) as { id: string };
	const log = page.getByRole('region', { name: 'Log' });
	await expect(log.getByRole('button', { name: /GET \/notices\/N-7/ })).toContainText('200 by answer');
	await expect(log.getByRole('button', { name: /GET \/notices\/N-7/ })).toContainText('one › read');
	await expect(page.getByRole('button', { name: 'answer: GET /notices/{number}' })).toContainText('1');
	await log.getByRole('button', { name: /GET \/notices\/N-7/ }).click();
	await expect(log.getByRole('link', { name: 'the run that asked' })).toHaveAttribute('href', `/stand-in/runs/${id}`);
	await accessible(page);

	// a change is taken over while it runs
	await page.getByLabel('Status', { exact: true }).fill('203');
	await saved(page);
	const list = (await (await page.request.get(`${bench.url}/api/projects/stand-in/stand-ins`)).json()) as StandIn[];
	const { address } = list.find(({ name }) => name === 'own-board')!.running!;
	await expect.poll(async () => (await page.request.get(`${address}/notices/N-9`)).status()).toBe(203);
	await page.request.get(`${address}/notices/N-8`);
	await log.getByLabel('Follow a value through all calls').fill('N-8');
	await expect(log).toContainText('1 call holds it');
	await log.getByLabel('Follow a value through all calls').fill('');

	await page.getByRole('button', { name: /faults: none/ }).click();
	await page.getByRole('checkbox', { name: 'unavailable' }).check();
	await expect(page.getByRole('button', { name: 'faults: unavailable' })).toBeVisible();
	await page.getByRole('button', { name: 'Stop', exact: true }).click();
	await expect(page.getByText('own-board does not run')).toBeVisible();
	await expect.poll(() => bench.file('stand-in', 'stand-ins/own-board.yaml')).toContain('ask: GET /notices/{number}');
});

test('a resource needs no line more; a call becomes an answer, and can be taken back', async ({ page, bench }) => {
	const url = await bench.project('stand-in-store', {
		...files,
		'stand-ins/own.yaml': 'heron: 1\ntitle: Own\nanswers: []\n'
	});
	await page.goto(`${url}/stand-ins/own`);
	await page.getByRole('button', { name: 'add a resource' }).click();
	await saved(page);
	await page.getByRole('button', { name: 'Start', exact: true }).click();
	await expect(page.getByText(/runs since/)).toBeVisible();
	const list = (await (
		await page.request.get(`${bench.url}/api/projects/stand-in-store/stand-ins`)
	).json()) as StandIn[];
	const { address } = list.find(({ name }) => name === 'own')!.running!;
	expect((await page.request.post(`${address}/things`, { data: { id: 'a', text: 'one' } })).status()).toBe(201);
	expect((await page.request.get(`${address}/things/a`)).status()).toBe(200);
	expect((await page.request.get(`${address}/nowhere`)).status()).toBe(404);
	await expect(page.getByText('things 1 stored')).toBeVisible();
	const log = page.getByRole('region', { name: 'Log' });
	await log.getByRole('button', { name: /GET \/nowhere/ }).click();
	await log.getByRole('button', { name: 'make an answer of it' }).click();
	await expect(page.getByRole('button', { name: 'get-nowhere: GET /nowhere' })).toBeVisible();
	await saved(page);
	await page.getByRole('button', { name: 'undo' }).first().click();
	await expect(page.getByRole('button', { name: 'get-nowhere: GET /nowhere' })).toHaveCount(0);
	await page.getByRole('button', { name: 'reset' }).click();
	await expect(page.getByText('things 0 stored')).toBeVisible();
});

test('what cannot run is not started, and says why in its place', async ({ page, bench }) => {
	const url = await bench.project('stand-in-wrong', {
		...files,
		'stand-ins/own.yaml':
			'heron: 1\nanswers:\n  - { id: a, ask: "GET /a/{b}", answer: { body: { text: "{$path.c}" } } }\n  - { id: b, ask: GET /a/latest, answer: {} }\n'
	});
	await page.goto(`${url}/stand-ins/own`);
	await expect(page.getByText('the path of a has no c')).toBeVisible();
	await expect(page.getByText('it is never reached: a takes all that fits it')).toBeVisible();
	await expect(page.getByRole('button', { name: 'Start', exact: true })).toBeDisabled();
	await accessible(page);
	await page.goto(`${url}/stand-ins`);
	await expect(page.getByText('1 problem in its file')).toBeVisible();
});

test('a step receives the call that the tested system makes', async ({ page, bench }) => {
	const url = await bench.project('stand-in-receive', {
		'heron.yaml': 'heron: 1\nenvironment: local\n',
		'environments/local.yaml': 'heron: 1\nstandIns: { yard: yard }\n',
		'connections/yard.yaml': 'heron: 1\nbase: https://yard.reedmere.example\n',
		'stand-ins/listener.yaml':
			'heron: 1\nbase: /in\nanswers: [{ id: told, ask: POST /told, answer: { status: 204 } }]\n',
		'stand-ins/yard.yaml':
			'heron: 1\nanswers:\n  - id: order\n    ask: POST /orders\n    answer: { status: 202 }\n    calls:\n      - { send: "POST {$env.standIns.listener}/told", after: 100 ms, body: { json: { number: N-7, text: ready } } }\n',
		'collections/orders.yaml':
			'heron: 1\nconnection: yard\nscenarios:\n  - id: one\n    title: An order\n    steps:\n      - { id: order, title: Order it, send: POST /orders, checks: [{ status: 202 }] }\n'
	});
	for (const name of ['listener', 'yard'])
		await page.request.post(`${bench.url}/api/projects/stand-in-receive/stand-ins`, {
			data: { name, action: 'start', environment: 'local' }
		});
	await page.goto(`${url}/collections/orders`);
	await page.getByRole('button', { name: 'receive a call' }).click();
	await page.getByLabel('Method and path that is waited for').fill('POST /told');
	await page.getByLabel('Stand-in that it comes to').selectOption('listener');
	await page.getByLabel('How long it is waited for').fill('3 s');
	await page.getByRole('button', { name: 'add a check' }).click();
	await page.getByLabel('Where check 1 looks').fill('$.number');
	await page.getByLabel('Relation of check 1').selectOption('equals');
	await page.getByLabel('Expected by check 1').fill('N-7');
	await page.getByRole('button', { name: 'Kept by step 2' }).click();
	await page.getByRole('button', { name: 'keep a value' }).click();
	await page.getByLabel('Selector of value').fill('$.text');
	await expect.poll(() => bench.file('stand-in-receive', 'collections/orders.yaml')).toContain('value: $.text');
	await saved(page);
	await accessible(page);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByText(/2 passed/).first()).toBeVisible();
	const came = page.getByText('came: POST');
	await expect(came).toBeVisible();
	await expect.poll(() => bench.file('stand-in-receive', 'collections/orders.yaml')).toContain('receive: POST /told');
});

test('what a step was answered is answered so by a stand-in, below the base of its connection', async ({
	page,
	bench
}) => {
	const mirror = new URL(bench.standin('mirror'));
	const url = await bench.project('stand-in-step', {
		'heron.yaml': 'heron: 1\nenvironment: real\n',
		'environments/real.yaml': 'heron: 1\n',
		'environments/stood.yaml': 'heron: 1\nstandIns: { moorings: moorings }\n',
		'connections/moorings.yaml': `heron: 1\nbase: ${mirror.origin}/v1\n`,
		'collections/one.yaml':
			'heron: 1\nconnection: moorings\nscenarios:\n  - id: one\n    title: One\n    steps:\n      - { id: list, title: List them, send: GET /berths, checks: [{ status: 200 }] }\n'
	});
	await page.goto(`${url}/collections/one`);
	await page
		.getByRole('button', { name: /List them/ })
		.first()
		.click();
	await page.getByRole('button', { name: /Send this step/ }).click();
	await page.getByRole('button', { name: 'stand in for it' }).click();
	await page.getByLabel('Stand-in that answers it').selectOption('a new one, moorings');
	await accessible(page);
	await page.getByRole('button', { name: 'Add it' }).click();
	const messages = page.getByRole('status', { name: 'Messages' });
	await expect(messages).toContainText('moorings answers this first, as they did.');
	await messages.getByRole('button', { name: 'close' }).click();
	const text = await bench.file('stand-in-step', 'stand-ins/moorings.yaml');
	expect(text).toContain('base: /v1');
	expect(text).toContain('ask: GET /berths');
	// and the same step holds against it
	await page.request.post(`${bench.url}/api/projects/stand-in-step/stand-ins`, {
		data: { name: 'moorings', action: 'start', environment: 'stood' }
	});
	await page.getByLabel('Environment').selectOption('stood');
	await expect(page.getByText('moorings is stood in')).toBeVisible();
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByText(/1 passed/).first()).toBeVisible();
	// a second one stands before it, under an id of its own, and is taken back
	await page.getByRole('button', { name: 'stand in for it' }).click();
	await page.getByLabel('Stand-in that answers it').selectOption('moorings');
	await page.getByRole('button', { name: 'Add it' }).click();
	await expect.poll(() => bench.file('stand-in-step', 'stand-ins/moorings.yaml')).toContain('get-berths2');
	await messages.getByRole('button', { name: 'undo' }).click();
	await expect.poll(() => bench.file('stand-in-step', 'stand-ins/moorings.yaml')).toBe(text);
});
