import { HeronError } from '#core/errors.ts';
import type { MessageCode } from '#core/messages.ts';
import type { RunEvent } from '#core/run/index.ts';
import { Worker } from 'node:worker_threads';
import type { FromWorker, Preview, PreviewOrder, RunOrder, Snapshot, ToWorker, WireError } from './protocol.ts';
import source from './worker.ts?nodeworker';

interface Task {
	events(events: RunEvent[]): void | Promise<void>;
	done(message?: FromWorker): void;
	fail(error: HeronError): void;
}

/** The worker in which runs are carried out, started when first needed and again after a crash. */
export interface EngineHost {
	/** Resolves at the run's end. @throws HeronError what kept it from starting, or run.crashed */
	run(
		snapshot: Snapshot,
		secrets: Record<string, string>,
		order: RunOrder,
		onEvents: (events: RunEvent[]) => void
	): Promise<void>;
	cancel(run: string): void;
	preview(snapshot: Snapshot, secrets: Record<string, string>, order: PreviewOrder): Promise<Preview>;
	resolve(
		snapshot: Snapshot,
		secrets: Record<string, string>,
		environment: string
	): Promise<Extract<FromWorker, { type: 'resolved' }>>;
	close(): Promise<void>;
}

const PING_EVERY_MS = 3000;
const SILENT_MS = 30_000;

const revive = (error: WireError): HeronError => {
	const revived = new HeronError(error.code as MessageCode, error.values, { problems: error.problems });
	return Object.assign(revived, { message: error.message });
};

export function createHost(version: string): EngineHost {
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
		const started = new Worker(source, { eval: true, execArgv: [], resourceLimits: { maxOldGenerationSizeMb: 4096 } });
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
			const task = tasks.get(message.id);
			if (!task) return;
			if (message.type === 'events') return void task.events(message.events);
			tasks.delete(message.id);
			if (message.type === 'failed') task.fail(revive(message.error));
			else task.done(message);
		});
		started.on('error', (error) => worker === started && crash(error.message));
		started.on('exit', () => worker === started && crash('it ended by itself'));
		return started;
	};

	const ask = <T>(message: ToWorker & { id: string }, events: Task['events'] = () => {}): Promise<T> =>
		new Promise((resolve, reject) => {
			tasks.set(message.id, { events, done: (answer) => resolve(answer as T), fail: reject });
			start().postMessage(message);
		});

	return {
		run: (snapshot, secrets, order, onEvents) =>
			ask({ type: 'run', id: order.info.id, snapshot, secrets, order, agent }, onEvents),
		cancel: (id) => worker?.postMessage({ type: 'cancel', id } satisfies ToWorker),
		preview: async (snapshot, secrets, order) => {
			const id = `p${++counter}`;
			return (
				await ask<Extract<FromWorker, { type: 'preview' }>>({ type: 'preview', id, snapshot, secrets, order, agent })
			).preview;
		},
		resolve: (snapshot, secrets, environment) =>
			ask({ type: 'resolve', id: `r${++counter}`, snapshot, secrets, environment, agent }),
		async close() {
			clearInterval(watch);
			const ending = worker;
			worker = undefined;
			await ending?.terminate();
		}
	};
}
