import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { readFileSync } from 'node:fs';
import { defineConfig, type Plugin } from 'vite';
import { nodeWorkerVite } from './scripts/node-worker.mjs';

const { version } = JSON.parse(readFileSync(new URL('package.json', import.meta.url), 'utf8')) as { version: string };

/** SvelteKit builds without complaint when a page's code reaches into the server's folder: refuse it here. */
const serverStaysOnTheServer = (): Plugin => ({
	name: 'server-stays-on-the-server',
	enforce: 'pre',
	resolveId: {
		filter: { id: /^#server\// },
		handler(id, importer) {
			if (this.environment.name === 'client') this.error(`${importer} imports ${id}, which only the server may`);
			return null;
		}
	}
});

export default defineConfig({
	plugins: [serverStaysOnTheServer(), nodeWorkerVite(), tailwindcss(), sveltekit()],
	define: { __APP_VERSION__: JSON.stringify(version) },
	worker: { format: 'es' },
	server: { host: '127.0.0.1' },
	build: { chunkSizeWarningLimit: 2000 },
	environments: {
		client: {
			build: {
				rolldownOptions: {
					// a page in a hundred small files is slow to fetch: what the same pages need comes together
					output: {
						codeSplitting: {
							groups: [
								// what is small joins what nearly the same pages need: an icon would bring an editor along
								{ name: 'icons', test: /node_modules\/@lucide\//, priority: 1 },
								{ name: 'shared', minShareCount: 2, entriesAware: true, entriesAwareMergeThreshold: 2_000 }
							]
						}
					}
				}
			}
		}
	},
	optimizeDeps: {
		include: [
			'@codemirror/autocomplete',
			'@codemirror/commands',
			'@codemirror/lang-json',
			'@codemirror/lang-xml',
			'@codemirror/language',
			'@codemirror/lint',
			'@codemirror/state',
			'@codemirror/view',
			'virtua/svelte',
			'yup',
			'json-p3',
			're2js',
			'jsonata'
		]
	}
});
