import { parse } from 'yaml';
import { drawer, expect, saved, stepButton, test, write } from './fixtures.ts';

test('compose a call, see what goes out, send it, read the answer, check and keep a value, use it in the next step', async ({
	page,
	bench
}) => {
	const url = await bench.project('compose');
	await page.goto(`${url}/collections`);
	await page.getByRole('button', { name: 'New collection' }).click();
	await page.getByLabel('Its title').fill('Lock passages');
	await page.getByRole('button', { name: 'Make it' }).click();
	await page.getByRole('button', { name: 'Add a scenario' }).click();
	await page.getByRole('textbox', { name: 'Title of the scenario' }).fill('Look round');
	await page.getByRole('button', { name: 'Add a step to Look round' }).click();

	// compose
	const first = drawer(page, /^Step 1/);
	await first.getByRole('textbox', { name: 'Title', exact: true }).fill('Berths of the mill');
	await write(first.getByRole('textbox', { name: 'Path', exact: true }), '/moorings');
	await first.getByRole('button', { name: 'Add a query parameter' }).click();
	await first.getByRole('textbox', { name: 'Name of query 1' }).fill('basin');
	await write(first.getByRole('textbox', { name: 'Value of query basin' }), 'Mill');
	await first.getByRole('button', { name: 'Add a header parameter' }).click();
	await first.getByRole('textbox', { name: 'Name of header 1' }).fill('X-Clerk');
	await write(first.getByRole('textbox', { name: 'Value of header X-Clerk' }), '{$env.clerk');
	await page.keyboard.type('}');
	await saved(page);

	// as it will be sent
	await first.getByRole('button', { name: 'as it will be sent' }).click();
	const preview = page.getByRole('region', { name: 'As it will be sent' });
	await expect(preview).toContainText('GET /v1/moorings?basin=Mill HTTP/1.1');
	await expect(preview).toContainText('X-Clerk: avery');
	await expect(preview).toContainText('User-Agent: loyal-heron');

	// send, read
	await page.keyboard.press('Control+Enter');
	await expect(first.getByText('200 OK')).toBeVisible();
	await expect(first.getByRole('tree', { name: 'Body' })).toContainText('total');
	await expect(first.getByRole('img', { name: /^Phases: .*wait/ })).toBeVisible();
	await first.getByText(/headers · HTTP\/1.1/).click();
	await expect(first.getByText('application/json; charset=utf-8')).toBeVisible();

	// a value becomes a check, another is kept
	await first.getByRole('button', { name: 'Choose $.total' }).click();
	await first.getByRole('button', { name: 'check this' }).click();
	await expect(first.getByRole('list', { name: 'Checks', exact: true })).toContainText('equals');
	await first.getByRole('button', { name: 'status 200' }).click();
	await first.getByRole('button', { name: 'Unfold 0' }).click();
	await first.getByRole('button', { name: 'Choose $.items[0].id' }).click();
	await first.getByRole('button', { name: 'keep this' }).click();
	await expect(first.getByRole('textbox', { name: 'Selector of id' })).toHaveValue('$.items[0].id');
	await expect(first.getByText('not used')).toBeVisible();

	// the next step uses it
	await page.keyboard.press('Escape');
	await page.getByRole('button', { name: 'Add a step to Look round' }).click();
	const second = drawer(page, /^Step 2/);
	await write(second.getByRole('textbox', { name: 'Path', exact: true }), '/moorings/{id}');
	await expect(second.getByText('The path asks for {id}.')).toBeVisible();
	await second.getByRole('button', { name: 'add it' }).click();
	const value = second.getByRole('textbox', { name: 'Value of path id' });
	await value.click();
	await value.pressSequentially('{$st');
	await page.getByRole('option', { name: /\$steps\.step\.id/ }).click();
	await expect(value).toHaveText('{$steps.step.id}');
	await saved(page);

	// run both; the rows show it
	await page.getByRole('button', { name: /^Run this/ }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 2' })).toContainText('200');
	await expect(page.getByRole('button', { name: 'Checks of step 1' })).toContainText('2 hold');
	await expect(stepButton(page, 'scenario', 'step2')).toContainText('step.id');

	expect(parse(await bench.file('compose', 'collections/lock-passages.yaml'))).toEqual({
		heron: 1,
		title: 'Lock passages',
		connection: 'reedmere',
		scenarios: [
			{
				id: 'scenario',
				title: 'Look round',
				steps: [
					{
						id: 'step',
						send: 'GET /moorings',
						title: 'Berths of the mill',
						query: { basin: 'Mill' },
						headers: { 'X-Clerk': '{$env.clerk}' },
						checks: [{ body: '$.total', equals: 8 }, { status: 200 }],
						keep: { id: '$.items[0].id' }
					},
					{ id: 'step2', send: 'GET /moorings/{id}', path: { id: '{$steps.step.id}' } }
				]
			}
		]
	});

	// a check that came later is not among those that hold
	await stepButton(page, 'scenario', 'step').click();
	await first.getByRole('button', { name: 'Choose $.page' }).click();
	await first.getByRole('button', { name: 'check this' }).click();
	await expect(page.getByRole('button', { name: 'Checks of step 1' })).toContainText('2 hold, 1 to judge');
});

const bodies: [string, string, (d: ReturnType<typeof drawer>) => Promise<void>, RegExp][] = [
	[
		'JSON',
		'json',
		async (d) => write(d.getByRole('textbox', { name: 'Body, JSON' }), '{"a": [1, "{$env.clerk}"]'),
		/Content-Type: application\/json[\s\S]*\{"a":\[1,"avery"\]\}/
	],
	[
		'XML',
		'xml',
		async (d) => write(d.getByRole('textbox', { name: 'Body, xml' }), '<a>{$env.clerk}</a>'),
		/application\/xml[\s\S]*<a>avery<\/a>/
	],
	[
		'text',
		'text',
		async (d) => write(d.getByRole('textbox', { name: 'Body, text' }), 'for {$env.clerk}'),
		/text\/plain[\s\S]*for avery/
	],
	[
		'form',
		'form',
		async (d) => {
			await d.getByRole('button', { name: 'add a field' }).click();
			await d.getByRole('textbox', { name: 'Name of field 1' }).fill('user');
			await write(d.getByRole('textbox', { name: 'Value of field user' }), 'a b');
		},
		/x-www-form-urlencoded[\s\S]*user=a\+b/
	],
	[
		'multipart',
		'multipart',
		async (d) => {
			await d.getByRole('textbox', { name: 'Name of part 1' }).fill('details');
			await d.getByRole('combobox', { name: 'Content of part 1' }).selectOption('json');
			await write(d.getByRole('textbox', { name: 'JSON of part 1' }), '{"boat": "Slow Tide"');
			await d.getByRole('button', { name: 'add a part' }).click();
			await d.getByRole('textbox', { name: 'Name of part 2' }).fill('scan');
			await d.getByRole('combobox', { name: 'Content of part 2' }).selectOption('file');
			await d.getByRole('combobox', { name: 'File of part 2' }).selectOption('files/permit.pdf');
		},
		/multipart\/form-data; boundary=[\s\S]*name="details"[\s\S]*\{"boat":"Slow Tide"\}[\s\S]*filename="permit\.pdf"[\s\S]*application\/pdf/
	],
	[
		'file',
		'file',
		async (d) => {
			await d
				.getByLabel('Upload a file')
				.setInputFiles({ name: 'a note.txt', mimeType: 'text/plain', buffer: Buffer.from('from the desk') });
			await expect(d.getByRole('combobox', { name: 'File' })).toHaveValue('files/a-note.txt');
		},
		/text\/plain[\s\S]*from the desk/
	]
];
for (const [name, kind, fill, sent] of bodies) {
	test(`a body of ${name}`, async ({ page, bench }) => {
		const url = await bench.project(`body-${kind}`, {
			'collections/one.yaml':
				'heron: 1\ntitle: One\nconnection: mirror\nscenarios:\n  - id: s\n    title: S\n    steps:\n      - id: a\n        send: POST /x\n'
		});
		await page.goto(`${url}/collections/one`);
		await stepButton(page, 's', 'a').click();
		const d = drawer(page, /^Step 1/);
		await d.getByRole('combobox', { name: 'Kind of body' }).selectOption(kind);
		await fill(d);
		await saved(page);
		await d.getByRole('button', { name: 'as it will be sent' }).click();
		await expect.poll(() => page.getByRole('region', { name: 'As it will be sent' }).innerText()).toMatch(sent);
		await page.keyboard.press('Control+Enter');
		await expect(d.getByText('200 OK')).toBeVisible();
	});
}
