import { createTokenKeeper, type TokenKeeper } from '#core/auth/index.ts';
import { baselineFiles } from '#core/baselines/index.ts';
import { isPlainFile } from '#core/documents/kinds.ts';
import { seeded } from '#core/model/seed.ts';
import type { Guard, Ports } from '#core/run/index.ts';
import { randomBytes } from 'node:crypto';
import { wallClock } from './clock.ts';
import { cryptoPort } from './crypto.ts';
import { createDatasets, memorySource, type DataSource } from './datasets/index.ts';
import { createScripts } from './script.ts';
import { createSender, openSession, type Caps } from './send/index.ts';
import { createXml } from './xml.ts';

export { createDatasets, folderSource, memorySource, withFile, type DataSource } from './datasets/index.ts';
export { readFolder, folderReader, type ProjectFolder } from './folder.ts';
export { fetchDefinition } from './fetch-definition.ts';
export { readSecrets } from './secrets.ts';
export { unpackDefinitions } from './unpack.ts';

/** The validator of JSON Schema is large: it is loaded when something is held against a schema. */
const openSchemas = async (readFile: (path: string) => Uint8Array | undefined) =>
	(await import('./json-schema.ts')).createSchemas(readFile);

const DEFAULT_CAPS: Caps = { body: 50_000_000, header: 256_000, together: 400_000_000 };

/** The longest that a timer of the platform waits, in milliseconds: more ends at once. */
const LONGEST_TIMER = 2 ** 31 - 1;

export interface Engine {
	/** The ports of one run. */
	ports(options: {
		seed: number;
		readFile?: (path: string) => Uint8Array | undefined;
		/** Where datasets are read from; without it there are none. */
		data?: DataSource;
		tokens?: TokenKeeper;
		/** Asked before a request leaves. */
		guard?: Guard | undefined;
		/** Told of every file that a step keeps. */
		onFile?: (name: string, bytes: Uint8Array) => void;
	}): Ports;
	close(): void;
}

/** Makes an engine: connections are kept as long as it lives. It needs no database. */
export function createEngine(caps: Caps = DEFAULT_CAPS): Engine {
	const sender = createSender(caps);
	const scripts = createScripts();
	return {
		ports({
			seed,
			readFile: ofProject = () => undefined,
			data = memorySource(new Map()),
			tokens = createTokenKeeper(),
			guard,
			onFile
		}) {
			const readFile = (path: string) => (isPlainFile(path) ? ofProject(path) : undefined);
			let counter = 0;
			let schemas: ReturnType<typeof openSchemas> | undefined;
			return {
				now: wallClock,
				steady: () => performance.now(),
				randomBytes: bytesByPool(),
				readFile,
				seed,
				random: seeded(seed),
				next: () => ++counter,
				openSession,
				xml: createXml(readFile),
				validateJson: async (value, schema) => (await (schemas ??= openSchemas(readFile)))(value, schema),
				script: scripts.run,
				...(onFile ? { keptFile: onFile } : {}),
				approved(name, environment) {
					for (const path of baselineFiles(name, environment)) {
						const bytes = readFile(path);
						if (bytes) return { path, text: new TextDecoder().decode(bytes) };
					}
					return undefined;
				},
				dataset: createDatasets(data),
				crypto: cryptoPort,
				tokens,
				send: (request, session, signal, authorizer) => sender.send(request, session, signal, authorizer, guard),
				sleep,
				deadline
			};
		},
		close() {
			sender.close();
			scripts.close();
		}
	};
}

/** Bytes are drawn in one piece: asking the system for a few at a time costs more than the rest of a step. */
function bytesByPool(): Ports['randomBytes'] {
	let pool = new Uint8Array(0);
	let used = 0;
	return (n) => {
		if (n > 1024) return randomBytes(n);
		if (used + n > pool.length) {
			pool = randomBytes(4096);
			used = 0;
		}
		return pool.subarray(used, (used += n));
	};
}

/** Waits, for months where that is wanted; ends at once when it is aborted. */
const sleep: Ports['sleep'] = (ms, signal) =>
	new Promise((resolve) => {
		if (signal?.aborted || ms <= 0) return resolve();
		const finish = () => {
			clearTimeout(timer);
			signal?.removeEventListener('abort', finish);
			resolve();
		};
		// one timer reaches 24 days
		const left = performance.now() + ms;
		const again = () => {
			const rest = left - performance.now();
			if (rest <= 0) finish();
			else timer = setTimeout(again, Math.min(rest, LONGEST_TIMER));
		};
		let timer = setTimeout(again, Math.min(ms, LONGEST_TIMER));
		signal?.addEventListener('abort', finish, { once: true });
	});

const deadline: Ports['deadline'] = (ms, outer) => {
	const controller = new AbortController();
	const pass = () => controller.abort(outer?.reason);
	if (outer?.aborted) pass();
	outer?.addEventListener('abort', pass, { once: true });
	const timer = ms > LONGEST_TIMER ? undefined : setTimeout(() => controller.abort(), ms);
	return {
		signal: controller.signal,
		clear() {
			clearTimeout(timer);
			outer?.removeEventListener('abort', pass);
		}
	};
};
