// npm run fuzz -- [--seconds N] [--seed N] [--only FAMILY]: files, definitions and what is made of them, datasets, replies, outputs, and a server's visitors at random,
// the same ones for the same seed. It ends with 1 when something was wrong.
import { spawnSync } from 'node:child_process';
import { parseArgs } from 'node:util';
import { bundleProgram } from '../scripts/bundle.mjs';
import { ensureBuilt } from '../scripts/build.mjs';
import { ensureModules, root } from '../scripts/setup.mjs';

ensureModules();
ensureBuilt();
const { values } = parseArgs({
	options: {
		seconds: { type: 'string', default: '40' },
		seed: { type: 'string', default: '1' },
		only: { type: 'string', default: '' }
	}
});
const outfile = await bundleProgram('fuzz/main.ts', 'fuzz/main');
const done = spawnSync(process.execPath, [outfile, values.seconds, values.seed, values.only], {
	cwd: root,
	stdio: 'inherit'
});
process.exit(done.status ?? 1);
