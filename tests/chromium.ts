import { existsSync } from 'node:fs';

/** Where Chromium is; the same one serves tests and pictures. */
export const chromiumPath =
	process.env.CHROMIUM_PATH ??
	['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync) ??
	'/usr/bin/chromium';
export const chromiumArgs = [
	'--disable-gpu',
	'--disable-quic',
	'--no-first-run',
	'--disable-background-networking',
	'--disable-component-update',
	'--disable-sync'
];
