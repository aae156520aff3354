// npm run test:loaded [-- TIMES]: everything, ten times in a row, while another process keeps each core busy.
// The gates run once: what they say does not depend on time.
import { spawn, spawnSync } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { root } from './setup.mjs';

const times = Number(process.argv[2] ?? 10);
const busy = Array.from({ length: availableParallelism() }, () =>
	spawn(process.execPath, ['-e', 'for (;;);'], { stdio: 'ignore' })
);
// they would go on for ever
const rest = () => {
	for (const one of busy) one.kill('SIGKILL');
};
for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM', 'SIGHUP']))
	process.on(signal, () => {
		rest();
		process.exit(130);
	});
let failed = 0;
try {
	for (let round = 1; round <= times && failed === 0; round++) {
		console.log(`[loaded] ${round} of ${times}`);
		const { status } = spawnSync(
			process.execPath,
			[join(root, 'scripts/test.mjs'), ...(round > 1 ? ['--again'] : [])],
			{ cwd: root, stdio: 'inherit' }
		);
		if (status !== 0) failed = round;
	}
} finally {
	rest();
}
console.log(failed ? `[loaded] round ${failed} failed` : `[loaded] ${times} of ${times} are green`);
process.exit(failed ? 1 : 0);
