// npm run screenshots [-- NAME…]: the pictures of the README, from the demo data, made the same way every time.
import { chromium } from '@playwright/test';
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt } from './build.mjs';
import { ensureChromium, root } from './setup.mjs';

ensureBuilt();
const wanted = process.argv.slice(2);
const executablePath = ensureChromium();
const { bringPast } = await import('./past.mjs');
const { startWorkbench } = await import('./workbench.mjs');
const dataDir = mkdtempSync(join(tmpdir(), 'heron-pictures-'));
const out = join(root, 'docs/screenshots');
mkdirSync(out, { recursive: true });
const bench = await startWorkbench({ dataDir, quiet: true });
const browser = await chromium.launch({ executablePath, args: ['--disable-gpu', '--disable-background-networking'] });
try {
	// a history worth looking at: green runs, one that finds a defect, one in another environment
	const run = async (/** @type {object} */ order) => {
		const { id } = /** @type {{ id: string }} */ (await bench.call('/projects/reedmere/runs', order));
		for (let i = 0; i < 200; i++) {
			const { run } = /** @type {{ run: { status: string } }} */ (await bench.call(`/runs/${id}`, undefined));
			if (run.status !== 'running') break;
			await new Promise((resolve) => setTimeout(resolve, 100));
		}
		return id;
	};
	await bringPast(bench.call, 'reedmere');
	for (let i = 0; i < 3; i++) await run({ targets: ['smoke'] });
	await run({ targets: ['nightly'] });
	const path = join(root, 'demo/reedmere/collections/bookings.yaml');
	const text = readFileSync(path, 'utf8');
	const write = async (/** @type {string} */ changed) => {
		const url = `${bench.url}/api/projects/reedmere/files/collections/bookings.yaml`;
		const { revision } = /** @type {{ revision: number }} */ (await (await fetch(url)).json());
		await fetch(url, {
			method: 'PUT',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ text: changed, revision })
		});
	};
	await write(
		text
			.replace('            equals: 4\n', '            equals: 5\n')
			.replace(
				'within some seconds\n        send: GET /noticeboard',
				'within some seconds\n        send: GET http://127.0.0.1:9/noticeboard'
			)
			.replace('until: { status: 200, every: 300 ms, within: 10 s }', 'retry: { times: 1, every: 100 ms }')
	);
	await run({ targets: [], environment: 'local' });
	await write(text);
	const rows = await run({ targets: ['season/office-list'], environment: 'local' });
	await run({ targets: [], environment: 'local', parallel: 2 });

	const shoot = async (
		/** @type {string} */ name,
		/** @type {string} */ at,
		/** @type {(page: import('@playwright/test').Page) => Promise<unknown>} */ act = async () => {},
		theme = 'almanac'
	) => {
		if (wanted.length > 0 && !wanted.includes(name)) return;
		const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
		await context.addCookies([{ name: 'theme', value: theme, url: bench.url }]);
		await context.addInitScript(() => localStorage.setItem('guide', '{"open":false}'));
		const page = await context.newPage();
		await page.goto(new URL(at, `${bench.url}/reedmere/`).href);
		if (!at.startsWith('..')) await page.getByText('everything resolves').waitFor();
		await act(page);
		await page.mouse.move(640, 790);
		await page.waitForTimeout(600);
		await page.screenshot({ path: join(out, `${name}.png`) });
		await context.close();
	};
	const open = async (/** @type {import('@playwright/test').Page} */ page, /** @type {string} */ id) => {
		await page.locator(`[id="step-book-a-mooring-${id}"]`).click();
		await page.getByRole('tree').waitFor();
	};
	await shoot('ledger', 'collections/bookings');
	await shoot('collections', 'collections', (page) => page.getByText('passed').first().waitFor(), 'dusk');
	await shoot('begin', '../projects', (page) =>
		page.getByLabel(/^Paste what you have/).fill(`http://127.0.0.1:${bench.firstStandin}/v1/moorings`)
	);
	await shoot('drawer', 'collections/bookings', (page) => open(page, 'book'));
	await shoot('checks', 'collections/bookings', async (page) => {
		await page.getByRole('button', { name: 'Checks of step 3' }).first().click();
		await page.getByRole('button', { name: 'Choose $.nights' }).click();
	});
	const { runs: builds } = /** @type {{ runs: { id: string, number: number, build: string}[] }} */ (
		await bench.call('/projects/reedmere/history?suite=nightly&held=no', undefined)
	);
	const build = builds.find(({ build }) => build !== '')?.id;
	const drawn = (/** @type {import('@playwright/test').Page} */ page) =>
		page.locator('[role=img] svg').first().waitFor();
	await shoot('run', `runs/${build}`, drawn);
	await shoot('compare', `runs/${build}/compare`);
	await shoot('stand-in', 'stand-ins/notices', async (page) => {
		await page.getByRole('button', { name: /^latest:/ }).click();
		await page.getByRole('button', { name: /^Ask it/ }).click();
		await page.locator('[data-threads]').waitFor();
		await page.getByRole('heading', { name: 'Log' }).scrollIntoViewIfNeeded();
	});
	await shoot('pipeline', 'suites/nightly', async (page) => {
		await page.getByLabel('Agents').fill('3');
		await page.getByLabel('Agents').blur();
	});
	await shoot('rows', `runs/${rows}`, async (page) => {
		await page.getByRole('heading', { level: 1 }).waitFor();
		await page.mouse.move(640, 500);
		await page.mouse.wheel(0, 4000);
		await page.getByRole('button', { name: 'Row 10, passed' }).waitFor();
	});
	await shoot('runs', 'runs', drawn);
	await shoot('values', 'values', async (page) => {
		await page.getByRole('button', { name: 'berth: where it is used' }).click();
		await page.getByText('used in 3 places').waitFor();
	});
	const { name: empty } = /** @type {{ name: string }} */ (
		await bench.call('/begin', { title: 'Landing stages', call: '' })
	);
	await shoot('import', `../${empty}/collections?definition`, async (page) => {
		await page
			.getByLabel('WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)')
			.setInputFiles(join(root, 'demo/reedmere/definitions/moorings.yaml'));
		await page.getByRole('checkbox', { name: /^Make Bookings/ }).uncheck();
		await page.getByRole('checkbox', { name: 'Make GET /bookings/{reference}' }).check();
	});
	// what the list of connections tells of
	for (const target of [
		'gatehouse',
		'gatehouse-mutual',
		'gatehouse-by-proxy',
		'sign-on',
		'weighbridge',
		'lock-house'
	]) {
		await (
			await fetch(`${bench.url}/api/projects/reedmere/reach`, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ target, environment: 'local' })
			})
		).text();
	}
	await shoot('connections', 'connections');
	await shoot('reach-failed', 'connections/lock-house');
	await shoot('recipe', 'credentials/gate-token', (page) => page.getByText('the test vector agrees').waitFor());
	await shoot('sign-in', 'credentials/avery', async (page) => {
		await page.getByRole('button', { name: 'Ask the issuer' }).click();
		await page.getByRole('button', { name: 'Prepare the consent' }).click();
		const consent = page.getByRole('link', { name: 'Open the consent page' });
		const popup = page.context().waitForEvent('page');
		await consent.click();
		const other = await popup;
		await other.getByRole('button', { name: 'Allow' }).click();
		await other.getByText('has arrived').waitFor();
		await other.close();
		await page.getByRole('button', { name: 'Exchange the code' }).click();
		await page.getByRole('region', { name: 'The token' }).waitFor();
		await page.getByRole('listitem', { name: 'Consent' }).scrollIntoViewIfNeeded();
	});
	await shoot('soap', 'collections/tolls#quote/tooLong', async (page) => {
		await page.getByRole('region', { name: 'Form' }).getByLabel('length', { exact: true }).waitFor();
		await page.getByRole('region', { name: 'Fault' }).waitFor();
		await page.waitForTimeout(1000);
		await page.mouse.move(640, 500);
		await page.mouse.wheel(0, 60);
	});
	await shoot('rehearsal', 'rehearsal?of=season/refusals', async (page) => {
		await page
			.getByRole('button', { name: /^It is refused/ })
			.first()
			.click();
		await page.getByRole('region', { name: /as it will be sent$/ }).waitFor();
	});
} finally {
	await browser.close();
	await bench.stop();
	rmSync(dataDir, { recursive: true, force: true });
}
