import { svelte } from '@sveltejs/vite-plugin-svelte';
import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';
import { nodeWorkerVite } from './scripts/node-worker.mjs';

export default defineConfig({
	plugins: [nodeWorkerVite(), svelte()],
	define: { __APP_VERSION__: JSON.stringify('0.0.0-test') },
	test: {
		environment: 'node',
		projects: [
			// they have no state of their own: their files can share what they import, which takes two thirds of the time
			{ extends: true, test: { name: 'core', include: ['src/core/**/*.test.ts'], isolate: false } },
			{ extends: true, test: { name: 'engine', include: ['tests/{engine,standins}/**/*.test.ts'], isolate: false } },
			{
				extends: true,
				test: {
					name: 'parts',
					include: ['src/**/*.test.ts', 'tests/{rules,cli,store,server}/**/*.test.ts'],
					exclude: ['src/core/**']
				}
			}
		],
		testTimeout: 120_000,
		hookTimeout: 120_000,
		// it imports JSON in a way that this Node does not know
		server: { deps: { inline: ['@actions/workflow-parser'] } },
		pool: 'threads',
		// many wait for a process or a limit: by itself Vitest would leave a core idle
		maxWorkers: availableParallelism() + 1
	}
});
