import type { Token } from '#core/auth/index.ts';
import type { KeptTokens } from '#core/run/index.ts';
import { HeronError } from '#core/errors.ts';
import type { MessageCode } from '#core/messages.ts';
import type { Carrier } from '../processes.ts';
import type { FromWorker, Job, JobName, Jobs, Progress, Sealed, Snapshot, WireError } from '../protocol.ts';
import { Carriers, HOST_LIMITS, STOPPED, type HostLimits } from './carriers.ts';
import { Known } from './known.ts';

export { HOST_LIMITS, type HostLimits } from './carriers.ts';

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
	renew(id: string, snapshot: Snapshot, environment: string): void;
	/** Lets go of all that is known of a project: another one may bear its name. */
	leave(project: string): void;
	/** Lets go of a token. */
	forget(project: string, environment: string, credential: string): void;
	close(): Promise<void>;
}

/** Jobs that send something: they are not done twice. */
const SENDS: ReadonlySet<JobName> = new Set(['run', 'reach', 'flow', 'definition', 'standIn']);

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

/** Starts the processes of a server. */
export const createHost = (
	version: string,
	listener: HostListener = {},
	limits: HostLimits = HOST_LIMITS
): EngineHost => new ProcessHost(`loyal-heron/${version}`, listener, limits);

/** What is asked of a process. */
interface Asked {
	type: JobName;
	id: string;
	project: string;
	visitor: string;
	snapshot: Snapshot;
	sealed: Sealed;
	order: Jobs[JobName]['order'];
	progress(progress: Progress): void | Promise<void>;
	done(answer: unknown): void;
	fail(error: HeronError): void;
}

class ProcessHost implements EngineHost {
	readonly #agent: string;
	readonly #listener: HostListener;
	readonly #known: Known;
	readonly #carriers: Carriers;
	/** How many messages of a run are done with, and were not told to it yet. */
	readonly #untold = new Map<string, number>();
	#counter = 0;

	constructor(agent: string, listener: HostListener, limits: HostLimits) {
		this.#agent = agent;
		this.#listener = listener;
		this.#known = new Known(limits.memories);
		this.#carriers = new Carriers(limits, {
			message: (carrier, message) => this.#heard(carrier, message),
			signsIn: (project) => this.#known.signsIn(project)
		});
	}

	ask<N extends JobName>(
		type: N,
		snapshot: Snapshot,
		sealed: Sealed,
		order: Jobs[N]['order'],
		{
			id = `${type}${++this.#counter}`,
			progress = () => {},
			visitor = ''
		}: { id?: string; progress?: (progress: Progress) => void | Promise<void>; visitor?: string } = {}
	): Promise<Jobs[N]['answer']> {
		return new Promise((resolve, reject) => {
			const { params, flow } = order as { params?: string; flow?: string };
			const state = flow ?? (params === undefined ? undefined : (new URLSearchParams(params).get('state') ?? ''));
			const project = snapshot.project || (state === undefined ? '' : this.#known.projectOfFlow(state));
			if (type === 'flow' && project === '')
				return reject(
					new HeronError('auth.callback', {
						detail: 'its state belongs to no sign-in that was begun here: begin again on the credential’s page'
					})
				);
			const done = (answer: unknown) => {
				if (type === 'flow') this.#known.takeFlow((answer as Jobs['flow']['answer']).flow, project);
				resolve(answer as never);
			};
			this.#give({ type, id, project, visitor, snapshot, sealed, order, progress, done, fail: reject }, false);
		});
	}

	/** Hands a job to a process. @param last it is not handed to another one when that breaks */
	#give(asked: Asked, last: boolean): void {
		const { type, id, project, visitor, snapshot, order, progress } = asked;
		let carrier: Carrier;
		try {
			carrier = this.#carriers.for(type, project, id);
		} catch (error) {
			return asked.fail(error as HeronError);
		}
		const settle = (act: () => void) => {
			this.#carriers.release(type, id, carrier);
			act();
		};
		this.#carriers.tasks.get(carrier)!.set(id, {
			id,
			visitor,
			progress,
			computes: type === 'import' || type === 'recorded',
			done: (answer) => settle(() => asked.done(answer)),
			fail: (error) => settle(() => asked.fail(error)),
			...(last || SENDS.has(type) ? {} : { again: () => this.#give(asked, true) })
		});
		carrier.watch(true);
		if (snapshot.project) carrier.tell(snapshot);
		const { environment } = order as { environment: string };
		const job = {
			...{ type, id, order, agent: this.#agent, project },
			sealed: this.#known.sealedWith(project, asked.sealed, environment),
			memories: this.#known.memoriesOf(project, type, order, visitor)
		};
		carrier.send(job as unknown as Job);
	}

	#heard(carrier: Carrier, message: FromWorker): void {
		if (message.type === 'pong') return;
		if (message.type === 'token') return this.#heardToken(carrier, message);
		const task = this.#carriers.tasks.get(carrier)?.get(message.id);
		if (message.type === 'memory') {
			const { environment, scenario, memory } = message;
			this.#known.takeMemory(carrier.project, environment, scenario, task?.visitor ?? '', memory);
			if (Object.keys(memory.kept).length > 0)
				this.#listener.kept?.(carrier.project, environment, scenario, memory.kept);
			return;
		}
		if (!task) return;
		if (message.type === 'progress') {
			const taken = task.progress(message);
			if (taken) void taken.finally(() => this.#took(carrier, message.id));
			return;
		}
		this.#carriers.finished(carrier, message.id);
		if (message.type === 'failed') task.fail(revive(message.error));
		else task.done(message.answer);
	}

	#heardToken(carrier: Carrier, message: Extract<FromWorker, { type: 'token' }>): void {
		const { project } = carrier;
		const { environment, credential, token } = message;
		this.#known.takeToken({ project, environment, credential, token });
		// whoever else is at work for the project must not go on with the old one
		for (const other of this.#carriers.of(project))
			if (other !== carrier) other.send({ type: 'token', environment, credential, token });
		this.#listener.token?.(project, environment, credential, token);
	}

	/** Tells a run how many of its messages are done with, some at a time. */
	#took(carrier: Carrier, id: string): void {
		const before = this.#untold.get(id);
		this.#untold.set(id, (before ?? 0) + 1);
		if (before !== undefined) return;
		setImmediate(() => {
			carrier.send({ type: 'took', id, messages: this.#untold.get(id)! });
			this.#untold.delete(id);
		});
	}

	cancel(id: string): void {
		for (const [carrier, list] of [...this.#carriers.tasks]) {
			const task = list.get(id);
			if (!task) continue;
			if (!task.computes) carrier.send({ type: 'cancel', id });
			else {
				list.delete(id);
				task.fail(new HeronError('send.cancelled'));
				carrier.end(STOPPED);
			}
		}
	}
	renew(id: string, snapshot: Snapshot, environment: string): void {
		for (const [carrier, list] of this.#carriers.tasks)
			if (list.has(id)) {
				carrier.tell(snapshot);
				carrier.send({ type: 'renew', id, environment });
			}
	}
	leave(project: string): void {
		this.#known.leave(project);
		for (const carrier of this.#carriers.of(project)) carrier.end(STOPPED);
	}
	forget(project: string, environment: string, credential: string): void {
		this.#known.forgetToken(project, environment, credential);
		for (const carrier of this.#carriers.of(project)) carrier.send({ type: 'forget', environment, credential });
	}
	async close(): Promise<void> {
		this.#carriers.close();
		await Promise.resolve();
	}
}
