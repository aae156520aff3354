import { HeronError, textOf } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import type { EngineHost } from '#server/engine/host.ts';
import type { Progress, Sealed, StandInState } from '#server/engine/protocol.ts';
import { holds, type CallFilter } from '#server/engine/stand-in/index.ts';
import { isObject, parseJson, writeJson, type Json } from '#core/model/json.ts';
import type { CallRecord, Remembered } from '#core/stand-in/index.ts';
import { randomUUID } from 'node:crypto';
import http from 'node:http';
import https from 'node:https';
import type { StandInStore } from '#server/store/index.ts';
import type { OpenProject, Projects } from './projects.ts';

/** A stand-in that runs here. */
export interface RunningStandIn extends StandInState {
	address: string;
	environment: string;
	/** Milliseconds since 1970. */
	since: number;
	/** Why it does not go by the files as they are now; empty when it does. */
	behind: string;
	/** How many calls there were. */
	asked: number;
}

/** What a page hears of a project's stand-ins. */
export type StandInEvent = { type: 'state'; name: string } | { type: 'calls'; name: string; calls: CallRecord[] };

interface Live extends RunningStandIn {
	id: string;
	project: string;
	name: string;
	calls: CallRecord[];
}

export interface StandIns {
	/** Starts one; resolves when it answers. @throws HeronError standIn.none, standIn.port, project.invalid, standIn.unreachable, standIn.control */
	start(project: OpenProject, name: string, environment: string, faults?: string[]): Promise<RunningStandIn>;
	stop(project: string, name: string): Promise<void>;
	/** Starts those again that ran when the server ended; why one does not is told by `now`. */
	resume(): Promise<void>;
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

/** One call to a stand-in of ours: its certificate is made when it starts, and checked by nobody. */
function callOwn(
	address: string,
	method: string,
	body: Uint8Array | undefined,
	timeout: number
): Promise<{ status: number; text: string }> {
	return new Promise((resolve, reject) => {
		const open = address.startsWith('https:') ? https : http;
		const request = open.request(address, { method, rejectUnauthorized: false, timeout }, (response) => {
			const chunks: Buffer[] = [];
			response.on('data', (chunk: Buffer) => chunks.push(chunk));
			response.on('error', reject);
			response.on('end', () => resolve({ status: response.statusCode ?? 0, text: Buffer.concat(chunks).toString() }));
		});
		request.on('error', reject).on('timeout', () => request.destroy(new Error('it does not answer')));
		request.end(body);
	});
}

const CONTROL_MS = 5000;
/** Each is a process of its own. */
const MOST_RUNNING = 24;
const MOST_CALLS = 2000;
const MOST_OCTETS = 60_000_000;
const RENEW_AFTER_MS = 150;

const problemsOf = ({ workspace }: OpenProject, name: string) =>
	workspace.problems.filter(({ file }) => file === `stand-ins/${name}.yaml`);

/** Stand-ins each run in a process of their own, and live as long as the server does. */
export function createStandIns(
	host: EngineHost,
	projects: Projects,
	sealedOf: (project: OpenProject, environment: string) => Promise<Sealed>,
	kept: StandInStore
): StandIns {
	const live = new Map<string, Live>();
	const starting = new Map<string, Promise<RunningStandIn>>();
	const ended = new Map<string, string>();
	const ears = new Map<string, Set<(event: StandInEvent) => void>>();
	const watched = new Map<string, () => void>();
	let closed = false;
	/** That one ran is no reason to fail. */
	const keep = (done: Promise<void>): void =>
		void done.catch((error: Error) => console.error(`what stand-ins run could not be kept: ${error.message}`));
	const keyOf = (project: string, name: string) => `${project}/${name}`;
	const tell = (project: string, event: StandInEvent) => {
		for (const hear of ears.get(project) ?? []) hear(event);
	};

	/** Files of a project changed: what runs goes on by them. */
	const watch = (project: string): void => {
		if (watched.has(project)) return;
		let timer: NodeJS.Timeout | undefined;
		const renew = async () => {
			timer = undefined;
			const running = [...live.values()].filter((one) => one.project === project);
			if (running.length === 0) return;
			const open = await projects.open(project).catch(() => undefined);
			if (!open) return;
			const snapshot = projects.snapshot(open);
			for (const one of running) {
				const [problem] = problemsOf(open, one.name);
				// what is wrong in the file stays here: documents go to the engine as values
				if (problem) {
					one.behind = problem.message;
					tell(project, { type: 'state', name: one.name });
				} else host.renew(one.id, snapshot);
			}
		};
		const off = projects.watch(project, () => {
			clearTimeout(timer);
			timer = setTimeout(() => void renew(), RENEW_AFTER_MS).unref();
		});
		watched.set(project, off);
	};

	const hear = (one: Live, progress: Progress, begun: (address: string) => void): void => {
		if ('address' in progress) {
			one.address = progress.address;
			begun(progress.address);
		} else if ('renewed' in progress) {
			one.behind = progress.renewed;
			tell(one.project, { type: 'state', name: one.name });
		} else if ('calls' in progress) {
			const { calls, now } = progress;
			Object.assign(one, now);
			one.asked += calls.length;
			one.calls.push(...calls);
			let octets = one.calls.reduce((n, call) => n + call.body.length + call.requestBody.length, 0);
			let gone = Math.max(0, one.calls.length - MOST_CALLS);
			while (octets > MOST_OCTETS && gone < one.calls.length - 1) {
				octets -= one.calls[gone]!.body.length + one.calls[gone]!.requestBody.length;
				gone++;
			}
			if (gone > 0) one.calls = one.calls.slice(gone);
			tell(
				one.project,
				calls.length > 0 ? { type: 'calls', name: one.name, calls } : { type: 'state', name: one.name }
			);
		}
	};

	const shown = ({ address, environment, since, behind, asked, counts, stores, faults }: Live): RunningStandIn => ({
		...{ address, environment, since, behind, asked, counts, stores, faults }
	});

	async function begin(
		project: OpenProject,
		name: string,
		environment: string,
		faults: string[]
	): Promise<RunningStandIn> {
		const key = keyOf(project.name, name);
		const { workspace } = project;
		const known = [...workspace.standIns.keys()];
		if (!workspace.standIns.has(name)) throw new HeronError('standIn.none', { name, nearest: didYouMean(name, known) });
		if (environment && !workspace.environments.has(environment))
			throw new HeronError('request.notFound', { what: `the environment "${environment}"` });
		const problems = problemsOf(project, name);
		if (problems.length > 0)
			throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
		if (live.size + starting.size >= MOST_RUNNING) throw new HeronError('standIn.many', { count: MOST_RUNNING });
		const one: Live = {
			...{ id: `standIn-${randomUUID()}`, project: project.name, name, environment, since: Date.now() },
			...{ address: '', behind: '', asked: 0, calls: [], counts: {}, stores: {}, faults: [] }
		};
		ended.delete(key);
		const sealed = await sealedOf(project, environment);
		return new Promise((resolve, reject) => {
			const begun = () => {
				live.set(key, one);
				keep(kept.put({ project: project.name, name, environment, faults }));
				watch(project.name);
				tell(project.name, { type: 'state', name });
				resolve(shown(one));
			};
			const over = (error?: unknown) => {
				if (live.get(key) === one) live.delete(key);
				if (error && one.address && !closed) {
					ended.set(key, textOf(error));
					keep(kept.remove(project.name, name));
				}
				tell(project.name, { type: 'state', name });
				reject((error as HeronError | undefined) ?? new HeronError('server.failed', { detail: `${name} was stopped` }));
			};
			host
				.ask(
					'standIn',
					projects.snapshot(project),
					sealed,
					{ name, environment, faults },
					{
						id: one.id,
						progress: (progress) => hear(one, progress, begun)
					}
				)
				.then(() => over(), over);
		});
	}

	const control: StandIns['control'] = async ({ address }, method, path, body, within = CONTROL_MS) => {
		const { origin } = new URL(address);
		const sent = body === undefined ? undefined : Buffer.from(writeJson(body));
		const { status, text } = await callOwn(origin + path, method, sent, within).catch((cause: unknown) => {
			throw new HeronError('standIn.unreachable', { detail: textOf(cause) }, { cause });
		});
		const given = text ? parseJson(text) : undefined;
		if (status < 300) return given;
		const detail = isObject(given) ? String(given.detail ?? status) : String(status);
		throw new HeronError('standIn.control', { detail });
	};

	const service: StandIns = {
		async start(project, name, environment, faults = []) {
			const key = keyOf(project.name, name);
			const running = live.get(key);
			if (running) return shown(running);
			let begun = starting.get(key);
			if (!begun) {
				begun = begin(project, name, environment, faults).finally(() => starting.delete(key));
				starting.set(key, begun);
			}
			return begun;
		},
		async stop(project, name) {
			const one = live.get(keyOf(project, name));
			if (!one) return;
			live.delete(keyOf(project, name));
			host.cancel(one.id);
			tell(project, { type: 'state', name });
			await kept.remove(project, name);
		},
		async resume() {
			const list = await kept.list().catch(() => []);
			for (const { project, name, environment, faults } of list) {
				if (closed) return;
				try {
					await service.start(await projects.open(project), name, environment, faults);
				} catch (error) {
					if (!closed) ended.set(keyOf(project, name), textOf(error));
				}
			}
		},
		now(project, name) {
			const key = keyOf(project, name);
			const running = live.get(key);
			const why = ended.get(key);
			return { ...(running ? { running: shown(running) } : {}), ...(why ? { ended: why } : {}) };
		},
		addresses: (project) =>
			Object.fromEntries(
				[...live.values()].filter((one) => one.project === project).map((one) => [one.name, one.address])
			),
		calls(project, { name, after = 0, method, path, by, value, most = MOST_CALLS }) {
			const all = [...live.values()]
				.filter((one) => one.project === project && (!name || one.name === name))
				.flatMap(({ calls }) => calls);
			return all
				.filter(
					(one) =>
						one.id > after &&
						(!method || one.method === method) &&
						(!path || one.target.split('?')[0] === path) &&
						(by === undefined || one.by === by) &&
						(!value || holds(one, value))
				)
				.sort((a, b) => a.at - b.at || a.id - b.id)
				.slice(-most);
		},
		clear(project, name) {
			const one = live.get(keyOf(project, name));
			if (!one) return;
			one.calls = [];
			tell(project, { type: 'state', name });
		},
		control,
		async remembered(running) {
			const given = await control(running, 'GET', '/.stand-in/state').catch(() => undefined);
			return given as unknown as Remembered | undefined;
		},
		listen(project, listener) {
			const own = ears.get(project) ?? new Set();
			ears.set(project, own);
			own.add(listener);
			return () => void own.delete(listener);
		},
		close() {
			closed = true;
			for (const off of watched.values()) off();
			for (const one of live.values()) host.cancel(one.id);
			live.clear();
		}
	};
	return service;
}
