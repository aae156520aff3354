import { HeronError, textOf } from '#core/errors.ts';
import { isObject, parseJson, unmarked, writeMarked, type Json, type JsonObject } from '#core/model/json.ts';
import { shortened } from '#core/model/shortened.ts';
import type { ScriptInput, ScriptLimits, ScriptOutcome, ScriptPort } from '#core/run/index.ts';
import { randomUUID } from 'node:crypto';
import { Worker } from 'node:worker_threads';

/** A megabyte: read when the first script is run. */
const program = async (): Promise<string> => (await import('./script.worker.ts?nodeworker')).default;

const SOURCE_LIMIT = 200_000;

const MOST_CHECKS = 1000;
const MOST_LINES = 500;
const LONGEST_TEXT = 5000;

/** What a script handed out, read like anything that is hostile: what has another shape is left out, and what is no JSON an error. */
export function parseOutcome(text: string): ScriptOutcome {
	let given: Json;
	try {
		given = parseJson(text);
	} catch (error) {
		return ended(`what it made cannot be read: ${textOf(error)}`);
	}
	const { kept, checks, log, touched, shown } = (isObject(given) ? given : {}) as Record<string, Json>;
	const cut = (value: Json | undefined) => shortened(typeof value === 'string' ? value : '', LONGEST_TEXT);
	return {
		kept: isObject(kept)
			? Object.fromEntries(Object.entries(kept as JsonObject).filter(([name]) => /^[A-Za-z_]\w*$/.test(name)))
			: {},
		checks: (Array.isArray(checks) ? checks : []).slice(0, MOST_CHECKS).flatMap((one) => {
			if (!isObject(one)) return [];
			const { name, holds, expected, received } = one as JsonObject;
			return [{ name: cut(name), holds: holds === true, expected: cut(expected), received: cut(received) }];
		}),
		log: (Array.isArray(log) ? log : []).slice(0, MOST_LINES + 1).map(cut),
		...(touched === true ? { touched, shown: (Array.isArray(shown) ? shown : []).map(cut) } : {})
	};
}

const ended = (error: string): ScriptOutcome => ({ kept: {}, checks: [], log: [], error });

/**
 * Scripts run in QuickJS (WebAssembly), inside a worker of their own: what the sandbox cannot stop, ending the worker
 * does. The worker is kept between scripts, and made anew after one that had to be ended.
 */
export function createScripts(): { run: ScriptPort; close(): void } {
	let worker: Worker | undefined;
	let last: Promise<unknown> = Promise.resolve();
	const drop = () => {
		void worker?.terminate();
		worker = undefined;
	};

	const one = (
		source: string,
		script: string,
		input: ScriptInput,
		limits: ScriptLimits,
		signal: AbortSignal | undefined
	) =>
		new Promise<ScriptOutcome>((resolve) => {
			const here = (worker ??= new Worker(source, {
				eval: true,
				execArgv: [],
				env: {},
				resourceLimits: { maxOldGenerationSizeMb: 512 }
			}));
			here.ref();
			const finish = (outcome: ScriptOutcome, broken = false) => {
				clearTimeout(timer);
				signal?.removeEventListener('abort', abort);
				here.removeAllListeners('message').removeAllListeners('error').removeAllListeners('exit');
				here.on('error', () => {});
				here.unref();
				if (broken) drop();
				resolve(outcome);
			};
			const abort = () => finish(ended('it was stopped'), true);
			// loading counts for the first one, so the second line of defence waits longer than the first
			const timer = setTimeout(
				() => finish(ended(`it was ended after ${limits.time} ms of computing`), true),
				limits.time * 2 + 5000
			);
			if (signal?.aborted) return abort();
			signal?.addEventListener('abort', abort, { once: true });
			const mark = `${randomUUID()}:`;
			here.once('message', ({ outcome, trouble, spent }: { outcome: string; trouble: string; spent: boolean }) => {
				finish({ ...parseOutcome(unmarked(outcome, mark)), ...(trouble ? { error: trouble } : {}) }, spent);
			});
			here.once('error', (error) => finish(ended(`it used more than it may: ${textOf(error)}`), true));
			here.once('exit', () => finish(ended('it used more memory than it may'), true));
			here.postMessage({ script, input: writeMarked(input, mark), mark, limits });
		});

	return {
		run(script, input, limits, signal) {
			if (script.length > SOURCE_LIMIT) return Promise.reject(new HeronError('script.large', { limit: SOURCE_LIMIT }));
			// one after the other: each has the worker for itself
			const next = last.then(async () => one(await program(), script, input, limits, signal));
			last = next.catch(() => {});
			return next;
		},
		close: drop
	};
}
