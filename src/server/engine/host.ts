import type { Token } from '#core/auth/index.ts';
import type { KeptTokens } from '#core/run/index.ts';
import { HeronError } from '#core/errors.ts';
import { counted, type MessageCode } from '#core/messages.ts';
import { startCarrier, type Carrier, type ProcessLimits } from './processes.ts';
import type {
	FromWorker,
	Job,
	JobName,
	Jobs,
	Progress,
	Sealed,
	Snapshot,
	StoredMemory,
	WireError
} from './protocol.ts';

interface Task {
	id: string;
	visitor: string;
	/** Resolves when it is done with. */
	progress(progress: Progress): void | Promise<void>;
	done(answer: unknown): void;
	fail(error: HeronError): void;
	/** It computes without listening. */
	computes: boolean;
	/** Hands it to another process, once: it was beside one that broke. */
	again?(): void;
}

/**
 * The processes in which everything is computed and sent that a project can make slow or large: one for the short tasks of
 * each project, one for each run. What breaks one is felt by nobody else.
 */
export interface EngineHost {
	/** Resolves with the job's answer. @throws HeronError what kept it from being done, run.crashed or run.many */
	ask<N extends JobName>(
		type: N,
		snapshot: Snapshot,
		sealed: Sealed,
		order: Jobs[N]['order'],
		/**
		 * @property progress a run goes on only so far ahead of what this resolves
		 * @property visitor whose steps these are: what they leave behind, such as cookies, is for the same one alone
		 */
		options?: { id?: string; progress?: (progress: Progress) => void | Promise<void>; visitor?: string }
	): Promise<Jobs[N]['answer']>;
	/** Ends a job: what sends comes to its end by itself, what only computes is ended from outside. */
	cancel(id: string): void;
	/** Tells what goes on by the files of a project that they are others now. */
	renew(id: string, snapshot: Snapshot): void;
	/** Lets go of all that is known of a project: another one may bear its name. */
	leave(project: string): void;
	/** Lets go of a token. */
	forget(project: string, environment: string, credential: string): void;
	close(): Promise<void>;
}

export interface HostLimits {
	process: ProcessLimits;
	/** Milliseconds for which a short task, or a run, may compute without a pause. */
	short: number;
	run: number;
	/** Runs that go on at a time. */
	runs: number;
	/** Processes that are kept for short tasks, and for runs that may follow, while they have nothing to do. */
	kept: number;
	/** Scenarios whose kept values and cookies are remembered, for steps that are sent by hand. */
	memories: number;
}
export const HOST_LIMITS: HostLimits = {
	process: { heap: 2048, whole: 4000 },
	short: 15_000,
	run: 30_000,
	runs: 16,
	kept: 4,
	memories: 500
};

/** Jobs that send something: they are not done twice. */
const SENDS: ReadonlySet<JobName> = new Set(['run', 'reach', 'flow', 'definition', 'standIn']);

const STOPPED = 'stopped';
/** As long as somebody may take for a sign-in by hand. */
const SIGN_IN_MS = 15 * 60_000;

const revive = (error: WireError): HeronError => {
	const revived = new HeronError(error.code as MessageCode, error.values, { problems: error.problems });
	return Object.assign(revived, { message: error.message });
};

/** What a host tells of what is to be sealed. */
export interface HostListener {
	/** A credential's token was given, renewed or let go. */
	token?: (project: string, environment: string, credential: string, token: Token | undefined) => void;
	/** Steps of a scenario kept tokens. */
	kept?: (project: string, environment: string, scenario: string, kept: Record<string, KeptTokens>) => void;
}

export function createHost(version: string, listener: HostListener = {}, limits: HostLimits = HOST_LIMITS): EngineHost {
	const agent = `loyal-heron/${version}`;
	let counter = 0;
	let closed = false;
	const tasks = new Map<Carrier, Map<string, Task>>();
	const short = new Map<string, Carrier>();
	/** Processes of runs that have ended, for the next one of their project. */
	const idle = new Map<string, Carrier>();
	const running = new Map<string, Carrier>();
	// started before it is needed: what is pressed begins at once
	let spare: Carrier | undefined;
	/** By project, environment, scenario and visitor; the oldest are let go. */
	const memories = new Map<string, StoredMemory>();
	/** Which project began a sign-in by hand. */
	const flows = new Map<string, { project: string; at: number }>();
	// what was told of a token may not be in the vault yet
	const tokens = new Map<
		string,
		{ project: string; environment: string; credential: string; token: Token | undefined }
	>();

	const prepare = () => {
		if (!closed && !spare?.alive) spare = startCarrier(limits.process);
	};

	setImmediate(prepare);

	const broken = (carrier: Carrier, reason: string): void => {
		const left = [...(tasks.get(carrier)?.values() ?? [])];
		tasks.delete(carrier);
		for (const list of [short, idle, running]) for (const [key, one] of list) if (one === carrier) list.delete(key);
		const error = new HeronError('run.crashed', { detail: reason });
		// the first one broke it, as far as anybody can tell; the others only stood beside it
		left.forEach((task, index) =>
			(index > 0 || reason === STOPPED) && task.again && !closed ? task.again() : task.fail(error)
		);
	};

	/** Tells a run how many of its messages are done with, some at a time. */
	const untold = new Map<string, number>();
	const took = (carrier: Carrier, id: string): void => {
		const before = untold.get(id);
		untold.set(id, (before ?? 0) + 1);
		if (before !== undefined) return;
		setImmediate(() => {
			carrier.send({ type: 'took', id, messages: untold.get(id)! });
			untold.delete(id);
		});
	};

	const heard = (carrier: Carrier, message: FromWorker): void => {
		if (message.type === 'pong') return;
		const { project } = carrier;
		if (message.type === 'token') {
			const { environment, credential, token } = message;
			tokens.set(JSON.stringify([project, environment, credential]), { project, environment, credential, token });
			// whoever else is at work for the project must not go on with the old one
			for (const other of tasks.keys())
				if (other !== carrier && other.project === project)
					other.send({ type: 'token', environment, credential, token });
			return listener.token?.(project, environment, credential, token);
		}
		if (message.type === 'memory') {
			const visitor = tasks.get(carrier)?.get(message.id)?.visitor ?? '';
			const key = JSON.stringify([project, message.environment, message.scenario, visitor]);
			memories.delete(key);
			memories.set(key, message.memory);
			if (Object.keys(message.memory.kept).length > 0)
				listener.kept?.(project, message.environment, message.scenario, message.memory.kept);
			if (memories.size > limits.memories) memories.delete(memories.keys().next().value!);
			return;
		}
		const task = tasks.get(carrier)?.get(message.id);
		if (!task) return;
		if (message.type === 'progress') {
			const taken = task.progress(message);
			if (taken) void taken.finally(() => took(carrier, message.id));
			return;
		}
		tasks.get(carrier)!.delete(message.id);
		if (tasks.get(carrier)!.size === 0) carrier.watch(false);
		if (message.type === 'failed') task.fail(revive(message.error));
		else task.done(message.answer);
	};

	const start = (project: string, silent: number): Carrier => {
		const carrier = spare?.alive ? spare : startCarrier(limits.process);
		spare = undefined;
		setImmediate(prepare);
		carrier.take(project, silent, {
			message: (message) => heard(carrier, message),
			ended: (reason) => broken(carrier, reason)
		});
		tasks.set(carrier, new Map());
		return carrier;
	};
	/** Ends processes that have nothing to do, the longest unused first. */
	const tidy = (list: Map<string, Carrier>, needed?: Carrier): void => {
		const signsIn = (project: string) =>
			[...flows.values()].some((one) => one.project === project && Date.now() - one.at < SIGN_IN_MS);
		const free = [...list]
			.filter(([, one]) => one !== needed && tasks.get(one)?.size === 0 && !signsIn(one.project))
			.sort((a, b) => a[1].usedAt - b[1].usedAt);
		for (const [key, one] of free.slice(0, Math.max(0, list.size - limits.kept))) {
			list.delete(key);
			tasks.delete(one);
			one.end();
		}
	};

	const carrierOf = (type: JobName, project: string, id: string): Carrier => {
		// it lives as long as its stand-in does, and nothing else happens in it
		if (type === 'standIn') return start(project, limits.run);
		if (type !== 'run') {
			let found = short.get(project);
			if (!found) short.set(project, (found = start(project, limits.short)));
			tidy(short, found);
			return found;
		}
		if (running.size >= limits.runs)
			throw new HeronError('run.many', { count: `${counted(limits.runs, 'run')} ${limits.runs === 1 ? 'is' : 'are'}` });
		const kept = idle.get(project);
		idle.delete(project);
		const carrier = kept ?? start(project, limits.run);
		running.set(id, carrier);
		return carrier;
	};
	/** A run has ended: its process waits for the next one of its project. */
	const release = (id: string): void => {
		const carrier = running.get(id);
		running.delete(id);
		if (!carrier?.alive) return;
		if (idle.has(carrier.project)) {
			tasks.delete(carrier);
			return carrier.end();
		}
		idle.set(carrier.project, carrier);
		tidy(idle);
	};

	const memoryOf = (
		project: string,
		type: JobName,
		order: Jobs[JobName]['order'],
		visitor: string
	): Record<string, StoredMemory> => {
		const { environment } = order as { environment: string };
		const keys: string[] = [];
		if (type === 'run') {
			const { only, targets } = order as Jobs['run']['order'];
			if (only.length > 0) keys.push(...targets);
		} else if (type === 'try') keys.push((order as Jobs['try']['order']).scenario ?? '');
		else if (type === 'preview' || type === 'judge') {
			const { collection, scenario } = order as Jobs['preview']['order'];
			keys.push(`${collection}/${scenario}`);
		} else if (type === 'recipe') {
			const { step } = order as Jobs['recipe']['order'];
			if (step) keys.push(`${step.collection}/${step.scenario}`);
		}
		return Object.fromEntries(
			keys.flatMap((key) => {
				const found = memories.get(JSON.stringify([project, environment, key, visitor]));
				return found ? [[key, found]] : [];
			})
		);
	};
	/** The newest of what is known: the vault's may be older. */
	const sealedWith = (project: string, sealed: Sealed, environment: string): Sealed => {
		const list = new Map(sealed.tokens.map((one) => [one.credential, one.token]));
		for (const one of tokens.values()) {
			if (one.project !== project || one.environment !== environment) continue;
			if (one.token) list.set(one.credential, one.token);
			else list.delete(one.credential);
		}
		return { ...sealed, tokens: [...list].map(([credential, token]) => ({ credential, token })) };
	};

	return {
		ask: (type, snapshot, sealed, order, { id = `${type}${++counter}`, progress = () => {}, visitor = '' } = {}) =>
			new Promise((resolve, reject) => {
				const { params, flow } = order as { params?: string; flow?: string };
				const state = flow ?? (params === undefined ? undefined : (new URLSearchParams(params).get('state') ?? ''));
				const project = snapshot.project || (state === undefined ? '' : (flows.get(state)?.project ?? ''));
				const { environment } = order as { environment: string };
				if (type === 'flow' && project === '')
					return reject(
						new HeronError('auth.callback', {
							detail: 'its state belongs to no sign-in that was begun here: begin again on the credential’s page'
						})
					);
				const give = (last: boolean): void => {
					let carrier: Carrier;
					try {
						carrier = carrierOf(type, project, id);
					} catch (error) {
						return reject(error as HeronError);
					}
					const settle = (act: () => void) => {
						if (type === 'run') release(id);
						if (type === 'standIn' && carrier.alive) {
							tasks.delete(carrier);
							carrier.end();
						}
						act();
					};
					tasks.get(carrier)!.set(id, {
						id,
						visitor,
						progress,
						computes: type === 'import' || type === 'recorded',
						done: (answer) =>
							settle(() => {
								if (type === 'flow') flows.set((answer as Jobs['flow']['answer']).flow, { project, at: Date.now() });
								resolve(answer as never);
							}),
						fail: (error) => settle(() => reject(error)),
						...(last || SENDS.has(type) ? {} : { again: () => give(true) })
					});
					carrier.watch(true);
					if (snapshot.project) carrier.tell(snapshot);
					const job = {
						...{ type, id, order, agent, project },
						sealed: sealedWith(project, sealed, environment),
						memories: memoryOf(project, type, order, visitor)
					};
					carrier.send(job as unknown as Job);
				};
				give(false);
			}),
		cancel(id) {
			for (const [carrier, list] of [...tasks]) {
				const task = list.get(id);
				if (!task) continue;
				if (!task.computes) carrier.send({ type: 'cancel', id });
				else {
					list.delete(id);
					task.fail(new HeronError('send.cancelled'));
					carrier.end(STOPPED);
				}
			}
		},
		renew(id, snapshot) {
			for (const [carrier, list] of tasks)
				if (list.has(id)) {
					carrier.tell(snapshot);
					carrier.send({ type: 'renew', id });
				}
		},
		leave(project) {
			for (const key of memories.keys()) if ((JSON.parse(key) as string[])[0] === project) memories.delete(key);
			for (const [key, one] of tokens) if (one.project === project) tokens.delete(key);
			for (const [key, one] of flows) if (one.project === project) flows.delete(key);
			for (const carrier of [...tasks.keys()]) if (carrier.project === project) carrier.end(STOPPED);
		},
		forget(project, environment, credential) {
			tokens.delete(JSON.stringify([project, environment, credential]));
			for (const carrier of tasks.keys())
				if (carrier.project === project) carrier.send({ type: 'forget', environment, credential });
		},
		async close() {
			closed = true;
			spare?.end();
			for (const carrier of [...tasks.keys()]) {
				for (const task of tasks.get(carrier)?.values() ?? []) task.fail(new HeronError('run.interrupted'));
				tasks.delete(carrier);
				carrier.end();
			}
			await Promise.resolve();
		}
	};
}
