import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { accessible, expect, test } from './fixtures.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));

test('the HTML report opens from a file, without scripts, failures first', async ({ page, bench, browser }) => {
	const dir = mkdtempSync(join(tmpdir(), 'heron-report-'));
	const file = join(dir, 'out.html');
	await new Promise((resolve) =>
		execFile(
			process.execPath,
			[
				...[join(root, 'dist/cli.js'), 'run', 'bookings/book-a-mooring', '--project', join(root, 'demo/reedmere')],
				...['--secrets', join(root, 'demo/secrets.yaml'), '--quiet', '--report', `html=${file}`],
				...['--set', `reedmere=${bench.standin('moorings')}`, '--set', 'berth=Z-99']
			],
			resolve
		)
	);
	const blocked: string[] = [];
	page.on('console', (message) => message.type() === 'error' && blocked.push(message.text()));
	await page.goto(pathToFileURL(file).href);
	await expect(page.getByRole('heading', { level: 1 })).toContainText('Book, change and cancel a mooring');
	await accessible(page);
	expect(blocked).toEqual([]);
	// its style is taken, strict as its policy is
	await expect(page.locator('main')).toHaveCSS('font-size', '15px');
	const context = await browser.newContext({ javaScriptEnabled: false });
	const plain = await context.newPage();
	await plain.goto(pathToFileURL(file).href);
	await plain.getByText('Every scenario').scrollIntoViewIfNeeded();
	await plain.locator('details').last().locator('summary').first().click();
	await expect(plain.getByText('Sign in as the clerk').last()).toBeVisible();
	await context.close();
	rmSync(dir, { recursive: true, force: true });
});
