// npm run demo: everything from nothing to a running workbench with the demo project.
import { join } from 'node:path';
import { ensureBuilt } from './build.mjs';
import { root } from './setup.mjs';

ensureBuilt();
const { bringPast } = await import('./past.mjs');
const { startWorkbench, PORT, STANDINS_PORT } = await import('./workbench.mjs');
const dataDir = process.env.HERON_DATA ?? join(root, 'data/demo');
const started = await startWorkbench({
	port: Number(process.env.PORT ?? PORT),
	standinsPort: Number(process.env.HERON_STANDINS_PORT ?? STANDINS_PORT),
	dataDir
});

const runs = await started.call('/projects/reedmere/runs', undefined);
if (runs.length === 0) {
	await bringPast(started.call, 'reedmere');
	await started.call('/projects/reedmere/runs', { targets: [], environment: 'local', parallel: 2 });
}

console.log(`\nLoyal Heron is at  ${started.url}\n`);
for (const { title, address } of started.standins) console.log(`  ${address.padEnd(28)} ${title}`);
console.log('\nCtrl+C ends all of it.');

let ending = false;
const end = async () => {
	if (ending) return;
	ending = true;
	await started.stop();
	process.exit(0);
};
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, end);
started.server.once('exit', (code) => {
	if (!ending) console.error(`the application ended by itself (${code})`);
	void end();
});
