// A reply of fifty megabytes on the page: how long the page stands still at most, and when its first lines are there.
import { chromium } from '@playwright/test';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findChromium } from '../scripts/setup.mjs';
import { startWorkbench } from '../scripts/workbench.mjs';

const item = (/** @type {number} */ i) => ({
	id: i,
	name: `Berth ${i} at the upper basin`,
	state: i % 3 ? 'free' : 'held',
	readings: [i % 7, i % 11, i % 13],
	links: { self: `/moorings/${i}` }
});
const body = Buffer.from(JSON.stringify({ items: Array.from({ length: 390_000 }, (_, i) => item(i)) }));

const dataDir = mkdtempSync(join(tmpdir(), 'heron-bench-page-'));
const server = createServer((_, reply) => {
	reply.setHeader('Content-Type', 'application/json');
	reply.end(body);
});
await new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(undefined)));
const { port } = /** @type {import('node:net').AddressInfo} */ (server.address());
const bench = await startWorkbench({ dataDir, quiet: true });
const browser = await chromium.launch({
	executablePath: findChromium(),
	args: ['--disable-gpu', '--no-first-run'],
	chromiumSandbox: false
});
try {
	const base64 = (/** @type {string} */ text) => Buffer.from(text).toString('base64');
	await bench.call('/projects', {
		name: 'large',
		files: [
			{ path: 'heron.yaml', base64: base64('heron: 1\n') },
			{
				path: 'collections/large.yaml',
				base64: base64(
					`heron: 1\nscenarios:\n  - id: s\n    steps:\n      - { id: get, send: "GET http://127.0.0.1:${port}/" }\n`
				)
			}
		]
	});
	const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
	await page.goto(`${bench.url}/large/collections/large#s/get`);
	await page
		.getByRole('button', { name: /^Send this step/ })
		.first()
		.waitFor();
	// what takes longer than 50 ms is told by the browser itself
	await page.evaluate(() => {
		const told = /** @type {{ longest: number }} */ (/** @type {unknown} */ (window));
		told.longest = 0;
		new PerformanceObserver((list) => {
			for (const { duration } of list.getEntries()) told.longest = Math.max(told.longest, duration);
		}).observe({ type: 'longtask' });
	});
	const longest = () =>
		page.evaluate(() => /** @type {{ longest: number }} */ (/** @type {unknown} */ (window)).longest);
	const sent = performance.now();
	await page
		.getByRole('button', { name: /^Send this step/ })
		.first()
		.click();
	await page.getByRole('tree', { name: 'Body' }).waitFor({ timeout: 120_000 });
	const open = performance.now() - sent;
	const opening = await longest();
	await page.getByRole('searchbox', { name: 'Search in keys and values' }).fill('Berth 389999 at');
	await page.getByText('1 of 1').waitFor({ timeout: 120_000 });
	const searching = await longest();
	const parse = await page.evaluate(
		async (address) => {
			const found = await fetch(address);
			const text = await found.text();
			const start = performance.now();
			JSON.parse(text);
			return performance.now() - start;
		},
		await page
			.getByRole('link', { name: /^save / })
			.getAttribute('href')
			.then((href) => String(href))
	);
	const said = { megabytes: Math.round(body.length / 1e6), open, parse, opening, searching };
	console.log(JSON.stringify(said));
} finally {
	await browser.close();
	await bench.stop();
	server.close();
	rmSync(dataDir, { recursive: true, force: true });
}
