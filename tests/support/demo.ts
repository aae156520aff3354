import { cpSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Standin } from '../../standins/index.ts';

const FIRST = 4681;

/** A copy of the demo project that speaks to these stand-ins. */
export function copyDemo(to: string, standins: Standin[]): void {
	cpSync(fileURLToPath(new URL('../../demo/reedmere', import.meta.url)), to, { recursive: true });
	for (const name of readdirSync(to, { recursive: true, encoding: 'utf8' })) {
		if (!name.endsWith('.yaml')) continue;
		const moved = (_: string, host: string, port: string) =>
			`${host}:${new URL(standins[Number(port) - FIRST]!.address).port}`;
		const file = join(to, name);
		writeFileSync(file, readFileSync(file, 'utf8').replace(/(127\.0\.0\.1|localhost):(46[89]\d)/g, moved));
	}
}
