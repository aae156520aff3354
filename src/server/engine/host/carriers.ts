import { HeronError } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { Carrier, type ProcessLimits } from '../processes.ts';
import type { FromWorker, JobName, Progress } from '../protocol.ts';

/** A job that a process is at. */
export interface Task {
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

/** Why a process was ended by us. */
export const STOPPED = 'stopped';

/** What processes tell, and what may not be ended. */
interface Hears {
	message(carrier: Carrier, message: FromWorker): void;
	/** Whether somebody may be signing in for a project: its process is kept. */
	signsIn(project: string): boolean;
}

/** The processes of all projects: one for the short tasks of each, one for each run, and one that waits to be needed. */
export class Carriers {
	/** What each process is at. */
	readonly tasks = new Map<Carrier, Map<string, Task>>();
	readonly #short = new Map<string, Carrier>();
	/** Processes of runs that have ended, for the next one of their project. */
	readonly #idle = new Map<string, Carrier>();
	readonly #running = new Map<string, Carrier>();
	// started before it is needed: what is pressed begins at once
	#spare: Carrier | undefined;
	#closed = false;
	readonly #limits: HostLimits;
	readonly #hears: Hears;

	constructor(limits: HostLimits, hears: Hears) {
		this.#limits = limits;
		this.#hears = hears;
		setImmediate(() => this.#prepare());
	}

	#prepare(): void {
		if (!this.#closed && !this.#spare?.alive) this.#spare = new Carrier(this.#limits.process);
	}

	#start(project: string, silent: number): Carrier {
		const carrier = this.#spare?.alive ? this.#spare : new Carrier(this.#limits.process);
		this.#spare = undefined;
		setImmediate(() => this.#prepare());
		carrier.take(project, silent, {
			message: (message) => this.#hears.message(carrier, message),
			ended: (reason) => this.#broken(carrier, reason)
		});
		this.tasks.set(carrier, new Map());
		return carrier;
	}

	#broken(carrier: Carrier, reason: string): void {
		const left = [...(this.tasks.get(carrier)?.values() ?? [])];
		this.tasks.delete(carrier);
		for (const list of [this.#short, this.#idle, this.#running])
			for (const [key, one] of list) if (one === carrier) list.delete(key);
		const error = new HeronError('run.crashed', { detail: reason });
		// the first one broke it, as far as anybody can tell; the others only stood beside it
		left.forEach((task, index) =>
			(index > 0 || reason === STOPPED) && task.again && !this.#closed ? task.again() : task.fail(error)
		);
	}

	/** The process for a job. @throws HeronError run.many */
	for(type: JobName, project: string, id: string): Carrier {
		const limits = this.#limits;
		// it lives as long as its stand-in does, and nothing else happens in it
		if (type === 'standIn') return this.#start(project, limits.run);
		if (type !== 'run') {
			let found = this.#short.get(project);
			if (!found) this.#short.set(project, (found = this.#start(project, limits.short)));
			this.#tidy(this.#short, found);
			return found;
		}
		if (this.#running.size >= limits.runs)
			throw new HeronError('run.many', {
				count: `${counted(limits.runs, 'run')} ${limits.runs === 1 ? 'is' : 'are'}`
			});
		const kept = this.#idle.get(project);
		this.#idle.delete(project);
		const carrier = kept ?? this.#start(project, limits.run);
		this.#running.set(id, carrier);
		return carrier;
	}

	/** A job has ended: the process of a run waits for the next one of its project, that of a stand-in ends. */
	release(type: JobName, id: string, carrier: Carrier): void {
		if (type === 'run') this.#releaseRun(id);
		if (type === 'standIn' && carrier.alive) this.#end(carrier);
	}
	#releaseRun(id: string): void {
		const carrier = this.#running.get(id);
		this.#running.delete(id);
		if (!carrier?.alive) return;
		if (this.#idle.has(carrier.project)) return this.#end(carrier);
		this.#idle.set(carrier.project, carrier);
		this.#tidy(this.#idle);
	}
	#end(carrier: Carrier): void {
		this.tasks.delete(carrier);
		carrier.end();
	}

	/** Ends processes that have nothing to do, the longest unused first. */
	#tidy(list: Map<string, Carrier>, needed?: Carrier): void {
		const free = [...list]
			.filter(([, one]) => one !== needed && this.tasks.get(one)?.size === 0 && !this.#hears.signsIn(one.project))
			.sort((a, b) => a[1].usedAt - b[1].usedAt);
		for (const [key, one] of free.slice(0, Math.max(0, list.size - this.#limits.kept))) {
			list.delete(key);
			this.#end(one);
		}
	}

	/** A process is done with a job. */
	finished(carrier: Carrier, id: string): void {
		const list = this.tasks.get(carrier);
		list?.delete(id);
		if (list?.size === 0) carrier.watch(false);
	}

	/** Those of a project. */
	of(project: string): Carrier[] {
		return [...this.tasks.keys()].filter((carrier) => carrier.project === project);
	}

	/** Ends all, and what they are at. */
	close(): void {
		this.#closed = true;
		this.#spare?.end();
		for (const [carrier, list] of [...this.tasks]) {
			for (const task of list.values()) task.fail(new HeronError('run.interrupted'));
			this.#end(carrier);
		}
	}
}
