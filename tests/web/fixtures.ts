import { expect, test as base, type Locator, type Page } from '@playwright/test';
import type Axe from 'axe-core';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startWorkbench } from '../../scripts/workbench.mjs';
import { late } from './late.ts';

export interface Bench {
	url: string;
	/** A project of the test's own: the demo's files under another name, others on top. */
	project(name: string, files?: Record<string, string>): Promise<string>;
	file(project: string, path: string): Promise<string>;
	standin(name: string): string;
	/** The database's file. */
	database: string;
}

/** One workbench for each worker, on ports of its own; each test works in a project of its own. */
export const test = base.extend<object, { bench: Bench }>({
	bench: [
		// eslint-disable-next-line no-empty-pattern
		async ({}, use, info) => {
			const dir = mkdtempSync(join(tmpdir(), 'heron-web-'));
			const port = Number(process.env.TEST_PORT ?? 24_000) + info.workerIndex * 20;
			const started = await startWorkbench({ port, standinsPort: port + 5, dataDir: dir, quiet: true });
			const { files: demo } = (await started.call('/projects/reedmere/export', undefined)) as {
				files: { path: string; base64: string }[];
			};
			await use({
				url: started.url,
				async project(name, files = {}) {
					const own = Object.entries(files).map(([path, text]) => ({
						path,
						base64: Buffer.from(text).toString('base64')
					}));
					const all = [...demo.filter((file) => !Object.hasOwn(files, file.path)), ...own];
					await started.call('/projects', { name, files: all, replace: true });
					return `${started.url}/${name}`;
				},
				async file(project, path) {
					const { files } = (await started.call(`/projects/${project}/export`, undefined)) as {
						files: { path: string; base64: string }[];
					};
					return Buffer.from(files.find((file) => file.path === path)?.base64 ?? '', 'base64').toString('utf8');
				},
				database: join(dir, 'heron.db'),
				standin: (name) => started.standins.find((one) => one.name === name)!.address
			});
			await started.stop();
			rmSync(dir, { recursive: true, force: true });
			expect(started.unexpected()).toBe('');
		},
		{ scope: 'worker', timeout: 90_000 }
	],
	// anything the browser complains about fails the test
	page: async ({ page }, use, { titlePath }) => {
		if (process.env.TEST_LATE) await late(page, `${process.env.TEST_LATE} ${titlePath.join(' ')}`);
		const complaints: string[] = [];
		page.on('pageerror', (error) => complaints.push(error.message));
		// what the server drew cannot be worked with before it is alive, and keys go nowhere until then
		const goto = page.goto.bind(page);
		page.goto = async (...args) => {
			const response = await goto(...args);
			await page.locator('[inert]').waitFor({ state: 'detached' });
			return response;
		};
		await use(page);
		expect(complaints).toEqual([]);
	}
});
export { expect } from '@playwright/test';

const axeSource = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
/** axe finds nothing in what is shown. It runs in the page itself and describes only what fails: a third of the time. */
export async function accessible(page: Page): Promise<void> {
	if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axeSource);
	const violations = await page.evaluate(async () => {
		const { axe } = window as unknown as { axe: typeof Axe };
		const { violations } = await axe.run(document, {
			runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'],
			resultTypes: ['violations'],
			preload: false
		});
		return violations.map(({ id, nodes }) => {
			const places = nodes.slice(0, 3).map((node) => node.target.join(' '));
			return `${id}: ${places.join(', ')}`;
		});
	});
	expect(violations).toEqual([]);
}

/** The row of a step in the ledger, by its scenario and id. */
export const stepButton = (page: Page, scenario: string, step: string): Locator =>
	page.locator(`[id="step-${scenario}-${step}"]`);
export const drawer = (page: Page, name: string | RegExp): Locator => page.getByRole('region', { name });
export const saved = (page: Page): Promise<void> => expect(page.getByText(/^saved/).first()).toBeVisible();
/** Writes into a code field. */
export async function write(field: Locator, text: string): Promise<void> {
	await field.click();
	await field.press('Control+a');
	await field.press('Delete');
	await field.pressSequentially(text);
}
