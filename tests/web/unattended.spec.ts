import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { accessible, expect, test } from './fixtures.ts';

test('a suite gets a time by the clock, is started from elsewhere, and tells its verdict', async ({ page, bench }) => {
	const url = await bench.project('unattended', {
		'suites/smoke.yaml': 'heron: 1\ntitle: Smoke\nscenarios: [first-look]\nenvironment: local\n'
	});
	const heard: string[] = [];
	const other = createServer((request, response) => {
		let body = '';
		request
			.on('data', (data) => (body += String(data)))
			.on('end', () => {
				heard.push(body);
				response.writeHead(204).end();
			});
	});
	await new Promise<void>((resolve) => other.listen(0, '127.0.0.1', resolve));
	const address = `http://127.0.0.1:${(other.address() as AddressInfo).port}/in`;
	await page.goto(`${url}/suites/smoke`);

	// by the clock: what it means is said while it is written
	const clock = page.getByRole('region', { name: 'By the clock' });
	const when = clock.getByRole('textbox', { name: /^When it runs/ });
	await when.fill('0 25 * * *');
	await expect(clock.getByRole('status')).toContainText('no time by the clock');
	await expect(clock.getByRole('button', { name: 'Run it by the clock' })).toBeDisabled();
	await clock.getByRole('combobox', { name: 'Time zone' }).fill('Europe/Amsterdam');
	await when.fill('0 4 1 1 *');
	await expect(clock.getByRole('status')).toContainText(/next: Jan 1, 20\d\d, 4:00/);
	await clock.getByRole('button', { name: 'Run it by the clock' }).click();
	await expect(clock.getByRole('checkbox', { name: 'on' })).toBeChecked();
	await page.reload();
	await expect(when).toHaveValue('0 4 1 1 *');
	await clock.getByRole('checkbox', { name: 'on' }).uncheck();
	await expect(clock.getByRole('status')).toContainText('It rests.');

	// others are told; the key is shown once
	const telling = page.getByRole('region', { name: 'Telling others' });
	await telling.getByRole('textbox', { name: 'Address that is told' }).fill(address);
	await telling.getByRole('combobox', { name: 'When it is told' }).selectOption('each');
	await telling.getByRole('button', { name: 'Tell it' }).click();
	await expect(telling.getByText(/shown this once/)).toBeVisible();
	await telling.getByRole('button', { name: 'it is kept' }).click();
	await telling.getByRole('button', { name: `Try ${address}` }).click();
	await expect(telling.getByRole('listitem')).toContainText('arrived');
	expect(heard).toHaveLength(1);
	await accessible(page);

	// started from elsewhere as the line says, it runs, and what became of it is told
	const line = await page.getByRole('region', { name: 'From elsewhere' }).locator('code').textContent();
	const [, start] = /(http:\S+)$/.exec(line!.trim())!;
	expect((await fetch(start!, { method: 'POST' })).status).toBe(202);
	await expect.poll(() => heard.length).toBe(2);
	expect(JSON.parse(heard[1]!)).toMatchObject({ event: 'verdict', suite: 'smoke', held: true, project: 'unattended' });
	await page.goto(`${url}/runs`);
	await page.getByRole('link', { name: /Smoke/ }).first().click();
	await expect(page.getByText('started by a hook')).toBeVisible();

	await page.goto(`${url}/suites/smoke`);
	await telling.getByRole('button', { name: `Stop telling ${address}` }).click();
	await telling.getByRole('button', { name: 'Yes, tell it nothing more' }).click();
	await expect(telling.getByRole('listitem')).toHaveCount(0);
	other.close();
});
