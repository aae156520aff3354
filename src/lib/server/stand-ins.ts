import { HeronError, textOf } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import type { EngineHost } from '#server/engine/host/index.ts';
import type { Progress, Sealed } from '#server/engine/protocol.ts';
import type { CallFilter } from '#server/engine/stand-in/index.ts';
import type { Json } from '#core/model/json.ts';
import type { CallRecord, Remembered } from '#core/stand-in/index.ts';
import { randomUUID } from 'node:crypto';
import type { StandInStore } from '#server/store/index.ts';
import type { OpenProject, Projects } from './projects.ts';
import { askStandIn } from './stand-in-control.ts';
import { callsThatFit, keepCalls, shown, type LiveStandIn, type RunningStandIn } from './stand-in-live.ts';

/** What a page hears of a project's stand-ins. */
export type StandInEvent = { type: 'state'; name: string } | { type: 'calls'; name: string; calls: CallRecord[] };

export interface StandIns {
	/** Starts one; resolves when it answers. @throws HeronError standIn.none, standIn.port, project.invalid, standIn.unreachable, standIn.control */
	start(project: OpenProject, name: string, environment: string, faults?: string[]): Promise<RunningStandIn>;
	stop(project: string, name: string): Promise<void>;
	/** Starts those again that ran when the server ended; why one does not is told by `now`. */
	resume(): Promise<void>;
	/** Those that run in an environment run in the one of another name from then on. */
	environmentRenamed(project: string, from: string, to: string): void;
	/** One that runs, or why the last one ended by itself. */
	now(project: string, name: string): { running?: RunningStandIn; ended?: string };
	addresses(project: string): Record<string, string>;
	/** Calls that fit, the newest at the end; of one, or of all of the project. */
	calls(project: string, filter: CallFilter & { name?: string }): CallRecord[];
	/** Lets go of the calls that are kept of one. */
	clear(project: string, name: string): void;
	/** Asks one for something below its own path. @throws HeronError standIn.unreachable, standIn.control with its reason */
	control(
		running: RunningStandIn,
		method: string,
		path: string,
		body?: Json,
		within?: number
	): Promise<Json | undefined>;
	/** What one remembers; undefined where it does not say. */
	remembered(running: RunningStandIn): Promise<Remembered | undefined>;
	/** Hears what happens; gives a function that ends it. */
	listen(project: string, hear: (event: StandInEvent) => void): () => void;
	close(): void;
}

/** Each is a process of its own. */
const MOST_RUNNING = 24;
const RENEW_AFTER_MS = 150;

const problemsOf = ({ workspace }: OpenProject, name: string) =>
	workspace.problems.filter(({ file }) => file === `stand-ins/${name}.yaml`);

const keyOf = (project: string, name: string): string => `${project}/${name}`;

/** What stand-ins of the server work with. */
interface Tools {
	host: EngineHost;
	projects: Projects;
	sealedOf: (project: OpenProject, environment: string) => Promise<Sealed>;
	/** Which of them ran: they start again with the server. */
	kept: StandInStore;
}

/** Stand-ins each run in a process of their own, and live as long as the server does. */
export const createStandIns = (
	host: EngineHost,
	projects: Projects,
	sealedOf: Tools['sealedOf'],
	kept: StandInStore
): StandIns => new RunningStandIns({ host, projects, sealedOf, kept });

class RunningStandIns implements StandIns {
	readonly #tools: Tools;
	readonly #live = new Map<string, LiveStandIn>();
	readonly #starting = new Map<string, Promise<RunningStandIn>>();
	/** Why the last one ended by itself. */
	readonly #ended = new Map<string, string>();
	readonly #ears = new Map<string, Set<(event: StandInEvent) => void>>();
	readonly #watched = new Map<string, () => void>();
	#closed = false;

	constructor(tools: Tools) {
		this.#tools = tools;
	}

	async start(project: OpenProject, name: string, environment: string, faults: string[] = []): Promise<RunningStandIn> {
		const key = keyOf(project.name, name);
		const running = this.#live.get(key);
		if (running) return shown(running);
		let begun = this.#starting.get(key);
		if (!begun) {
			begun = this.#begin(project, name, environment, faults).finally(() => this.#starting.delete(key));
			this.#starting.set(key, begun);
		}
		return begun;
	}

	async #begin(project: OpenProject, name: string, environment: string, faults: string[]): Promise<RunningStandIn> {
		assertStartable(project, name, environment);
		if (this.#live.size + this.#starting.size >= MOST_RUNNING)
			throw new HeronError('standIn.many', { count: MOST_RUNNING });
		const one: LiveStandIn = {
			...{ id: `standIn-${randomUUID()}`, project: project.name, name, environment, since: Date.now() },
			...{ address: '', behind: '', asked: 0, calls: [], counts: {}, stores: {}, faults: [] }
		};
		const key = keyOf(project.name, name);
		this.#ended.delete(key);
		const { host, projects, sealedOf, kept } = this.#tools;
		const sealed = await sealedOf(project, environment);
		return new Promise((resolve, reject) => {
			const begun = () => {
				this.#live.set(key, one);
				keep(kept.put({ project: project.name, name, environment, faults }));
				this.#watch(project.name);
				this.#tell(project.name, { type: 'state', name });
				resolve(shown(one));
			};
			const over = (error?: unknown) => {
				this.#over(one, error);
				reject((error as HeronError | undefined) ?? new HeronError('server.failed', { detail: `${name} was stopped` }));
			};
			const progress = (news: Progress) => this.#hear(one, news, begun);
			host
				.ask('standIn', projects.snapshot(project), sealed, { name, environment, faults }, { id: one.id, progress })
				.then(() => over(), over);
		});
	}

	/** One has ended: by itself, when there is an error. */
	#over(one: LiveStandIn, error: unknown): void {
		const key = keyOf(one.project, one.name);
		if (this.#live.get(key) === one) this.#live.delete(key);
		if (error && one.address && !this.#closed) {
			this.#ended.set(key, textOf(error));
			keep(this.#tools.kept.remove(one.project, one.name));
		}
		this.#tell(one.project, { type: 'state', name: one.name });
	}

	#hear(one: LiveStandIn, progress: Progress, begun: () => void): void {
		if ('address' in progress) {
			one.address = progress.address;
			begun();
		} else if ('renewed' in progress) {
			one.behind = progress.renewed;
			this.#tell(one.project, { type: 'state', name: one.name });
		} else if ('calls' in progress) {
			const { calls, now } = progress;
			Object.assign(one, now);
			keepCalls(one, calls);
			this.#tell(
				one.project,
				calls.length > 0 ? { type: 'calls', name: one.name, calls } : { type: 'state', name: one.name }
			);
		}
	}

	/** Files of a project change: what runs goes on by them. */
	#watch(project: string): void {
		if (this.#watched.has(project)) return;
		let timer: NodeJS.Timeout | undefined;
		const off = this.#tools.projects.watch(project, () => {
			clearTimeout(timer);
			timer = setTimeout(() => void this.#renew(project), RENEW_AFTER_MS).unref();
		});
		this.#watched.set(project, off);
	}

	async #renew(project: string): Promise<void> {
		const { host, projects } = this.#tools;
		const running = this.#of(project);
		if (running.length === 0) return;
		const open = await projects.open(project).catch(() => undefined);
		if (!open) return;
		const snapshot = projects.snapshot(open);
		for (const one of running) {
			const [problem] = problemsOf(open, one.name);
			// what is wrong in the file stays here: documents go to the engine as values
			if (problem) {
				one.behind = problem.message;
				this.#tell(project, { type: 'state', name: one.name });
			} else host.renew(one.id, snapshot, one.environment);
		}
	}

	#of(project: string): LiveStandIn[] {
		return [...this.#live.values()].filter((one) => one.project === project);
	}
	#tell(project: string, event: StandInEvent): void {
		for (const hear of this.#ears.get(project) ?? []) hear(event);
	}

	async stop(project: string, name: string): Promise<void> {
		const one = this.#live.get(keyOf(project, name));
		if (!one) return;
		this.#live.delete(keyOf(project, name));
		this.#tools.host.cancel(one.id);
		this.#tell(project, { type: 'state', name });
		await this.#tools.kept.remove(project, name);
	}
	async resume(): Promise<void> {
		const { kept, projects } = this.#tools;
		const list = await kept.list().catch(() => []);
		for (const { project, name, environment, faults } of list) {
			if (this.#closed) return;
			try {
				await this.start(await projects.open(project), name, environment, faults);
			} catch (error) {
				if (!this.#closed) this.#ended.set(keyOf(project, name), textOf(error));
			}
		}
	}
	environmentRenamed(project: string, from: string, to: string): void {
		for (const one of this.#of(project)) {
			if (one.environment !== from) continue;
			one.environment = to;
			this.#tell(project, { type: 'state', name: one.name });
		}
	}
	now(project: string, name: string): { running?: RunningStandIn; ended?: string } {
		const key = keyOf(project, name);
		const running = this.#live.get(key);
		const why = this.#ended.get(key);
		return { ...(running ? { running: shown(running) } : {}), ...(why ? { ended: why } : {}) };
	}
	addresses(project: string): Record<string, string> {
		return Object.fromEntries(this.#of(project).map((one) => [one.name, one.address]));
	}
	calls(project: string, { name, ...filter }: CallFilter & { name?: string }): CallRecord[] {
		const meant = this.#of(project).filter((one) => !name || one.name === name);
		return callsThatFit(
			meant.flatMap(({ calls }) => calls),
			filter
		);
	}
	clear(project: string, name: string): void {
		const one = this.#live.get(keyOf(project, name));
		if (!one) return;
		one.calls = [];
		this.#tell(project, { type: 'state', name });
	}
	control(
		{ address }: RunningStandIn,
		method: string,
		path: string,
		body?: Json,
		within?: number
	): Promise<Json | undefined> {
		return askStandIn(address, method, path, body, within);
	}
	async remembered({ address }: RunningStandIn): Promise<Remembered | undefined> {
		const given = await askStandIn(address, 'GET', '/.stand-in/state').catch(() => undefined);
		return given as unknown as Remembered | undefined;
	}
	listen(project: string, hear: (event: StandInEvent) => void): () => void {
		const own = this.#ears.get(project) ?? new Set();
		this.#ears.set(project, own.add(hear));
		return () => void own.delete(hear);
	}
	close(): void {
		this.#closed = true;
		for (const off of this.#watched.values()) off();
		for (const one of this.#live.values()) this.#tools.host.cancel(one.id);
		this.#live.clear();
	}
}

/** @throws HeronError standIn.none, request.notFound, project.invalid */
function assertStartable(project: OpenProject, name: string, environment: string): void {
	const { workspace } = project;
	const known = [...workspace.standIns.keys()];
	if (!workspace.standIns.has(name)) throw new HeronError('standIn.none', { name, nearest: didYouMean(name, known) });
	if (environment && !workspace.environments.has(environment))
		throw new HeronError('request.notFound', { what: `the environment "${environment}"` });
	const problems = problemsOf(project, name);
	if (problems.length > 0)
		throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
}

/** That one ran is no reason to fail. */
const keep = (done: Promise<void>): void =>
	void done.catch((error: Error) => console.error(`what stand-ins run could not be kept: ${error.message}`));
