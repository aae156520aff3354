// Bundled and started by fuzz/index.mjs.
import type { Family } from './family.ts';
import { definitions, datasets, projectFiles } from './files.ts';
import { draw } from './mutate.ts';
import { outputs } from './outputs.ts';
import { replies } from './replies.ts';
import { runs } from './runs.ts';
import { server } from './server.ts';
import { usedDefinitions } from './used-definitions.ts';
import { usedWsdls } from './used-wsdls.ts';

const families: readonly Family[] = [
	projectFiles,
	definitions,
	usedDefinitions,
	usedWsdls,
	datasets,
	replies,
	runs,
	outputs,
	server
];
const SHOWN = 10;

const [seconds = 20, seed = 1, only = ''] = process.argv
	.slice(2)
	.map((given, index) => (index < 2 ? Number(given) : given));
let wrong = 0;
for (const family of families.filter((one) => !only || one.name.includes(String(only)))) {
	const trying = await family.open();
	const until = performance.now() + Number(seconds) * 1000;
	const seen = new Map<string, number>();
	let tries = 0;
	for (let at = Number(seed); performance.now() < until; at++, tries++) {
		const fault = await trying
			.once(draw(at))
			.catch((error: unknown) => `thrown: ${(error as Error).stack ?? String(error)}`);
		if (fault === undefined) continue;
		wrong++;
		// the same fault once, told by its beginning
		const kind = fault.replace(/[\d"'`].*$/s, '').slice(0, 60);
		seen.set(kind, (seen.get(kind) ?? 0) + 1);
		if (seen.get(kind) === 1 && seen.size <= SHOWN) console.log(`${family.name}, seed ${at}: ${fault.slice(0, 900)}\n`);
	}
	await trying.close?.();
	const faults = [...seen.values()].reduce((a, b) => a + b, 0);
	console.log(`${family.name.padEnd(24)} ${tries} tries, ${faults} faults`);
}
process.exit(wrong > 0 ? 1 : 0);
