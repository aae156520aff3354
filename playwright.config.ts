import { defineConfig } from '@playwright/test';
import { chromiumArgs, chromiumPath } from './tests/chromium.ts';

export default defineConfig({
	testDir: 'tests/web',
	outputDir: 'test-results',
	workers: 2,
	fullyParallel: true,
	forbidOnly: !!process.env.CI,
	reporter: [['list']],
	timeout: 60_000,
	expect: { timeout: 10_000 },
	use: {
		viewport: { width: 1280, height: 800 },
		deviceScaleFactor: 1,
		reducedMotion: 'reduce',
		actionTimeout: 10_000,
		trace: process.env.TRACE ? 'retain-on-failure' : 'off',
		permissions: ['clipboard-read', 'clipboard-write'],
		launchOptions: { executablePath: chromiumPath, args: chromiumArgs, chromiumSandbox: false }
	}
});
