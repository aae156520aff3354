import type { Token } from '#core/auth/index.ts';
import { HeronError } from '#core/errors.ts';
import type { MessageCode } from '#core/messages.ts';
import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { FromWorker, Job, JobName, Jobs, Progress, Sealed, Snapshot, ToWorker, WireError } from './protocol.ts';
import source from './worker.ts?nodeworker';

interface Task {
	progress(progress: Progress): void;
	done(answer: unknown): void;
	fail(error: HeronError): void;
}

type OnToken = (project: string, environment: string, credential: string, token: Token | undefined) => void;

/** The worker in which everything is sent, started when first needed and again after a crash. */
export interface EngineHost {
	/** Resolves with the job's answer. @throws HeronError what kept it from being done, or run.crashed */
	ask<N extends JobName>(
		type: N,
		snapshot: Snapshot,
		sealed: Sealed,
		order: Jobs[N]['order'],
		options?: { id?: string; progress?: (progress: Progress) => void }
	): Promise<Jobs[N]['answer']>;
	cancel(id: string): void;
	/** Lets go of a token. */
	forget(project: string, environment: string, credential: string): void;
	close(): Promise<void>;
}

// a worker that was made of text finds no packages by name
const XML_LIBRARY = pathToFileURL(createRequire(import.meta.url).resolve('libxml2-wasm')).href;

const PING_EVERY_MS = 3000;
const SILENT_MS = 30_000;

const revive = (error: WireError): HeronError => {
	const revived = new HeronError(error.code as MessageCode, error.values, { problems: error.problems });
	return Object.assign(revived, { message: error.message });
};

/** @param onToken told of every token that was given, renewed or let go */
export function createHost(version: string, onToken: OnToken = () => {}): EngineHost {
	const agent = `loyal-heron/${version}`;
	let worker: Worker | undefined;
	let watch: NodeJS.Timeout | undefined;
	let counter = 0;
	const tasks = new Map<string, Task>();

	const crash = (detail: string) => {
		clearInterval(watch);
		void worker?.terminate();
		worker = undefined;
		const broken = [...tasks.values()];
		tasks.clear();
		for (const task of broken) task.fail(new HeronError('run.crashed', { detail }));
	};

	const start = (): Worker => {
		if (worker) return worker;
		const started = new Worker(source, {
			eval: true,
			execArgv: [],
			workerData: { xmlLibrary: XML_LIBRARY },
			resourceLimits: { maxOldGenerationSizeMb: 4096 }
		});
		worker = started;
		let heard = Date.now();
		watch = setInterval(() => {
			if (tasks.size === 0) heard = Date.now();
			else if (Date.now() - heard > SILENT_MS) return crash(`nothing was heard for ${SILENT_MS / 1000} s`);
			started.postMessage({ type: 'ping' } satisfies ToWorker);
		}, PING_EVERY_MS);
		watch.unref();
		started.unref();
		started.on('message', (message: FromWorker) => {
			heard = Date.now();
			if (message.type === 'pong') return;
			if (message.type === 'token')
				return onToken(message.project, message.environment, message.credential, message.token);
			const task = tasks.get(message.id);
			if (!task) return;
			if (message.type === 'progress') return task.progress(message);
			tasks.delete(message.id);
			if (message.type === 'failed') task.fail(revive(message.error));
			else task.done(message.answer);
		});
		started.on('error', (error) => worker === started && crash(error.message));
		started.on('exit', () => worker === started && crash('it ended by itself'));
		return started;
	};

	return {
		ask: (type, snapshot, sealed, order, { id = `${type}${++counter}`, progress = () => {} } = {}) =>
			new Promise((resolve, reject) => {
				tasks.set(id, { progress, done: (answer) => resolve(answer as never), fail: reject });
				start().postMessage({ type, id, snapshot, sealed, order, agent } as Job);
			}),
		cancel: (id) => worker?.postMessage({ type: 'cancel', id } satisfies ToWorker),
		forget: (project, environment, credential) =>
			worker?.postMessage({ type: 'forget', project, environment, credential } satisfies ToWorker),
		async close() {
			clearInterval(watch);
			const ending = worker;
			worker = undefined;
			await ending?.terminate();
		}
	};
}
