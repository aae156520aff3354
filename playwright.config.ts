import { defineConfig } from '@playwright/test';
import { findChromium } from './scripts/setup.mjs';

export default defineConfig({
	testDir: 'tests/web',
	outputDir: 'test-results',
	workers: 2,
	fullyParallel: true,
	forbidOnly: !!process.env.CI,
	reporter: [['list']],
	// A slow machine gets its time. Nothing is tried twice: what needs it shows a race.
	timeout: 300_000,
	retries: 0,
	expect: { timeout: 60_000 },
	use: {
		viewport: { width: 1280, height: 800 },
		deviceScaleFactor: 1,
		reducedMotion: 'reduce',
		actionTimeout: 60_000,
		trace: process.env.TRACE ? 'retain-on-failure' : 'off',
		permissions: ['clipboard-read', 'clipboard-write'],
		launchOptions: {
			executablePath: findChromium(),
			args: ['--disable-gpu', '--disable-quic'],
			chromiumSandbox: false
		}
	}
});
