import { accessible, expect, saved, test } from './fixtures.ts';

interface StandIn {
	name: string;
	running?: { address: string };
}
const board = {
	'heron.yaml': 'heron: 1\ntitle: Board\nenvironment: local\n',
	'environments/local.yaml': 'heron: 1\nstandIns: { board: board }\n',
	'connections/board.yaml': 'heron: 1\nbase: https://board.reedmere.example\n',
	'collections/board.yaml':
		'heron: 1\ntitle: Board\nconnection: board\nscenarios:\n  - id: one\n    title: A notice\n    steps:\n      - { id: read, title: Read it, send: GET /notices/N-7, checks: [{ status: 200 }] }\n',
	'stand-ins/board.yaml':
		'heron: 1\ntitle: The board\nanswers:\n  - { id: put-up, ask: POST /notices, answer: { status: 201, body: { json: { boat: "{$request.body.boat}", by: "{$request.headers.`x-clerk`}", loud: "{$query.loud}" } } } }\n  - { id: read, ask: "GET /notices/{number}", answer: { body: { json: { number: "{$path.number}" } } } }\n'
};

test('threads lead from the request to its answer, and only where there is room', async ({ page, bench }) => {
	const url = await bench.project('stand-in-threads', board);
	await page.goto(`${url}/stand-ins/board`);
	await page.getByRole('button', { name: 'put-up: POST /notices' }).click();
	await page.getByLabel('Path and query of the request that is tried').fill('/notices?loud=yes');
	await page
		.getByLabel('Header fields of the request that is tried')
		.fill('Content-Type: application/json\nX-Clerk: avery');
	await page.getByLabel('Body of the request that is tried').fill('{ "boat": "Slow Tide" }');
	await page.getByRole('button', { name: /Ask it/ }).click();
	// three values, each from one place and to one place
	await expect(page.locator('[data-threads="6"]')).toBeAttached();
	await accessible(page);
	await page.setViewportSize({ width: 700, height: 800 });
	await expect(page.locator('[data-threads="0"]')).toBeAttached();
});

test('a call of its own is made, looked at, and sent', async ({ page, bench }) => {
	const mirror = bench.standin('mirror');
	const url = await bench.project('stand-in-own-call', board);
	await page.goto(`${url}/stand-ins/board`);
	await page.getByRole('button', { name: 'add a call of its own' }).click();
	await page.getByLabel('Id of the call').fill('closed');
	await page.getByLabel('Title of the call').fill('A lock closes');
	await page.getByLabel('Method and address that it calls').fill(`POST ${mirror}/hook`);
	await saved(page);
	await accessible(page);
	await page.getByRole('button', { name: 'See what would go out' }).click();
	await expect(
		page.getByRole('region', { name: 'Calls it makes by itself' }).getByText('Content-Type: application/json')
	).toBeVisible();
	await expect(page.getByRole('button', { name: 'Send it now' })).toBeDisabled();
	await page.getByRole('button', { name: 'Start', exact: true }).click();
	await page.getByRole('button', { name: 'Send it now' }).click();
	const log = page.getByRole('region', { name: 'Log' });
	await expect(log.getByRole('button', { name: /hook/ })).toContainText('sent by itself: closed');
	await expect(page.getByRole('button', { name: /^call closed/ })).toContainText('1');
	await page.getByLabel('How often it goes out').fill('5 ms');
	await page.keyboard.press('Tab');
	await expect(page.getByText('100 ms is the soonest', { exact: true })).toBeVisible();
	await page.getByLabel('How often it goes out').fill('200 ms');
	await page.keyboard.press('Tab');
	await saved(page);
	await expect(log.getByRole('button', { name: /hook/ }).nth(2)).toBeVisible();
	await page.getByRole('button', { name: 'remove' }).click();
	await expect(page.getByRole('button', { name: /^call closed/ })).toHaveCount(0);
	await page.getByRole('status', { name: 'Messages' }).getByRole('button', { name: 'undo' }).click();
	await expect(page.getByRole('button', { name: /^call closed/ })).toBeVisible();
});

test('a call in the log becomes a step that sends it, or one that waits for it', async ({ page, bench }) => {
	const url = await bench.project('stand-in-to-step', board);
	await page.goto(`${url}/stand-ins/board`);
	await page.getByRole('button', { name: 'Start', exact: true }).click();
	await expect(page.getByText(/runs since/)).toBeVisible();
	const list = (await (
		await page.request.get(`${bench.url}/api/projects/stand-in-to-step/stand-ins`)
	).json()) as StandIn[];
	const { address } = list[0]!.running!;
	await page.request.post(`${address}/notices`, { data: { boat: 'Slow Tide' }, headers: { 'x-clerk': 'avery' } });
	const log = page.getByRole('region', { name: 'Log' });
	await log.getByRole('button', { name: /POST \/notices/ }).click();
	await log.getByRole('button', { name: 'make a step of it' }).click();
	await accessible(page);
	await log.getByRole('button', { name: 'Add the step' }).click();
	const messages = page.getByRole('status', { name: 'Messages' });
	await expect(messages).toContainText('It is the step post-notices of board/one.');
	const text = await bench.file('stand-in-to-step', 'collections/board.yaml');
	expect(text).toContain('send: POST /notices');
	expect(text).toContain('boat: Slow Tide');
	await messages.getByRole('button', { name: 'undo' }).click();
	await expect.poll(() => bench.file('stand-in-to-step', 'collections/board.yaml')).not.toContain('POST /notices');
	await log.getByRole('button', { name: 'make a step of it' }).click();
	await log.getByLabel('What the step does').selectOption('waits for such a call and checks it');
	await log.getByLabel('Scenario that it is put into').selectOption('a new scenario');
	await log.getByRole('button', { name: 'Add the step' }).click();
	await expect.poll(() => bench.file('stand-in-to-step', 'collections/board.yaml')).toContain('receive: POST /notices');
	await expect
		.poll(() => bench.file('stand-in-to-step', 'collections/board.yaml'))
		.toMatch(/body: \$\.boat[\s\S]*equals: Slow Tide/);
});

test('what the definition refuses is told before anything starts, and goes when it is mended', async ({
	page,
	bench
}) => {
	const document = {
		openapi: '3.1.0',
		info: { title: 'Board', version: '1' },
		paths: {
			'/notices/{number}': {
				get: {
					parameters: [{ name: 'number', in: 'path', required: true, schema: { type: 'string' } }],
					responses: {
						200: {
							description: 'One',
							content: { 'application/json': { schema: { type: 'object', required: ['number', 'text'] } } }
						}
					}
				}
			}
		}
	};
	const url = await bench.project('stand-in-refused', {
		...board,
		'definitions/board.json': JSON.stringify(document),
		'stand-ins/board.yaml':
			'heron: 1\ndefinition: board.json\nanswers:\n  - { id: read, ask: "GET /notices/{number}", answer: { body: { json: { number: "{$path.number}" } } } }\n'
	});
	await page.goto(`${url}/stand-ins/board`);
	const refused = page.getByText("$ must have required property 'text'");
	await expect(refused).toBeVisible();
	await accessible(page);
	await page.getByRole('button', { name: /^read:/ }).click();
	const body = page.getByLabel('Body of the answer, json');
	await body.click();
	await page.keyboard.press('Control+A');
	await page.keyboard.insertText('{ "number": "{$path.number}", "text": "x" }');
	await expect(refused).toHaveCount(0);
	await page.getByLabel('Status', { exact: true }).fill('418');
	await expect(page.getByText(/status 418 is not defined/)).toBeVisible();
});

test('a request is made by the definition, or pasted', async ({ page, bench }) => {
	const url = await bench.project('stand-in-made', {
		...board,
		'stand-ins/board.yaml':
			'heron: 1\ndefinition: notices.yaml\nanswers:\n  - { id: put-up, ask: POST /board/notices, must: [{ contract: true }], answer: { status: 201, body: { json: { number: N-7, text: x, level: note } } } }\n'
	});
	await page.goto(`${url}/stand-ins/board`);
	await page.getByRole('button', { name: /^put-up:/ }).click();
	await page.getByRole('button', { name: 'from the definition' }).click();
	await expect(page.getByLabel('Body of the request that is tried')).toHaveValue(/"text"/);
	await page.getByRole('button', { name: /Ask it/ }).click();
	await expect(page.getByRole('region', { name: 'Its answer' })).toContainText('201');
	const target = page.getByLabel('Path and query of the request that is tried');
	await target.focus();
	await page.evaluate(() => {
		const data = new DataTransfer();
		data.setData('text/plain', "curl -X DELETE https://board.reedmere.example/board/notices/N-1 -H 'X-Clerk: avery'");
		document.activeElement!.dispatchEvent(
			new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })
		);
	});
	await expect(target).toHaveValue('/board/notices/N-1');
	await expect(page.getByLabel('Method of the request that is tried')).toHaveValue('DELETE');
	await expect(page.getByLabel('Header fields of the request that is tried')).toHaveValue('X-Clerk: avery');
});

test('a page of another origin may call it where its file says so', async ({ page, bench }) => {
	await bench.project('stand-in-cors', {
		...board,
		'stand-ins/board.yaml':
			'heron: 1\ncors: true\nanswers: [{ id: put, ask: "PUT /notices/{number}", answer: { body: { json: { number: "{$path.number}" } } } }]\n',
		'stand-ins/shut.yaml': 'heron: 1\nanswers: [{ id: put, ask: "PUT /notices/{number}", answer: {} }]\n'
	});
	const api = `${bench.url}/api/projects/stand-in-cors/stand-ins`;
	for (const name of ['board', 'shut'])
		await page.request.post(api, { data: { name, action: 'start', environment: 'local' } });
	const list = (await (await page.request.get(api)).json()) as StandIn[];
	const call = (name: string) =>
		page.evaluate(
			(address) =>
				fetch(`${address}/notices/N-7`, { method: 'PUT', headers: { 'x-clerk': 'avery' } }).then(
					(reply) => reply.text(),
					() => 'refused by the browser'
				),
			list.find((one) => one.name === name)!.running!.address
		);
	// a page that allows calls to anywhere: of another origin than the stand-in's
	await page.goto(bench.standin('mirror'));
	expect(await call('board')).toBe('{"number":"N-7"}');
	expect(await call('shut')).toBe('refused by the browser');
});

test('a delay is taken from what a run has measured', async ({ page, bench }) => {
	const url = await bench.project('stand-in-times', board);
	await page.request.post(`${bench.url}/api/projects/stand-in-times/stand-ins`, {
		data: { name: 'board', action: 'start', environment: 'local' }
	});
	await page.request.post(`${bench.url}/api/projects/stand-in-times/runs`, {
		data: { targets: ['board'], environment: 'local' }
	});
	await page.goto(`${url}/stand-ins/board`);
	await page.getByRole('button', { name: 'settings' }).click();
	await page.getByRole('button', { name: 'as slow as a run' }).click();
	await page.getByLabel('Run whose times are taken').selectOption({ index: 1 });
	await page.getByRole('button', { name: 'Take these times' }).click();
	await saved(page);
	await expect.poll(() => bench.file('stand-in-times', 'stand-ins/board.yaml')).toMatch(/run_1:\s+delay:\s+- \d+ ms/);
	await accessible(page);
});

test('presses and typing are taken by a slow machine and a slow server', async ({ page, bench }) => {
	const url = await bench.project('stand-in-slow', board);
	const session = await page.context().newCDPSession(page);
	await session.send('Emulation.setCPUThrottlingRate', { rate: 6 });
	await page.route('**/api/projects/**', async (route) => {
		await new Promise((resolve) => setTimeout(resolve, 300));
		await route.continue();
	});
	await page.goto(`${url}/stand-ins/board`);
	await page.getByRole('button', { name: /^read:/ }).click();
	await page.getByLabel('Title of the answer').fill('One notice');
	// pressed while the edit before it is being saved, and while trying comes back
	await page.getByRole('button', { name: /Ask it/ }).click();
	await page.getByRole('button', { name: 'add an answer' }).click();
	await page.getByLabel('Method and path').fill('DELETE /notices/{number}');
	await page.getByRole('button', { name: 'Start', exact: true }).click();
	await expect(page.getByText(/runs since/)).toBeVisible();
	await expect(page.getByLabel('Method and path')).toHaveValue('DELETE /notices/{number}');
	const list = (await (
		await page.request.get(`${bench.url}/api/projects/stand-in-slow/stand-ins`)
	).json()) as StandIn[];
	// what was typed last is what answers
	expect((await page.request.delete(`${list[0]!.running!.address}/notices/N-1`)).status()).toBe(200);
	await page.getByRole('button', { name: 'add a call of its own' }).click();
	await page.getByLabel('Id of the call').fill('own');
	await page.getByRole('button', { name: /^read:/ }).click();
	await expect(page.getByLabel('Title of the answer')).toHaveValue('One notice');
	await page.getByRole('button', { name: 'Stop', exact: true }).click();
	await expect(page.getByText('does not run').first()).toBeVisible();
	await saved(page);
	await expect.poll(() => bench.file('stand-in-slow', 'stand-ins/board.yaml')).toContain('id: own');
});
