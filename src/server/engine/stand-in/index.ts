import { HeronError } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import type { JsonObject } from '#core/model/json.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS } from '#core/documents/connection.ts';
import type { Workspace } from '#core/project/index.ts';
import { createRedactor, type Redactor } from '#core/redact/index.ts';
import { guardOf, unrecordedRun, startNames } from '#core/run/index.ts';
import { createService, type CallRecord, type Outgoing, type StandInPorts } from '#core/stand-in/index.ts';
import { createEngine, type DataSource } from '../index.ts';
import { standInPorts } from './ports.ts';
import { listenFor, type Listener } from './listener.ts';

export { holds, type CallFilter } from './log.ts';
export interface StandInsOrder {
	workspace: Workspace;
	readFile(path: string): Uint8Array | undefined;
	data: DataSource;
	/** Those that are started; none for all of the project. */
	names: readonly string[];
	environment: string;
	secrets: Record<string, string>;
	set: JsonObject;
	/** Where they listen. */
	host?: string;
	/** The first port of several that follow each other, in place of those that the files name; 0 for any. */
	port?: number;
	/** Faults that are on, by name or as written. */
	faults?: readonly string[];
	onCall?(record: CallRecord): void;
	/** Told when what one remembers, or its faults, were set by its own address. */
	onChange?(): void;
}

/** What they go by. */
type StandInsFiles = Pick<StandInsOrder, 'workspace' | 'readFile' | 'data' | 'environment'>;

/**
 * Starts stand-ins; each listens before any of them answers, so that they know each other's addresses.
 * @throws HeronError standIn.none, standIn.port, project.invalid, dataset.*, definition.*
 */
export async function startStandIns(order: StandInsOrder): Promise<StandInsNow> {
	const now = new StandInsNow(order);
	try {
		await now.start();
	} catch (error) {
		await now.close();
		throw error;
	}
	return now;
}

/** Stand-ins of a project that run in this process. */
export class StandInsNow {
	readonly list: Listener[] = [];
	/** Their addresses, by name: what `$env.standIns` is. */
	readonly addresses: Record<string, string> = {};
	readonly #order: StandInsOrder;
	readonly #names: readonly string[];
	readonly #redactor: Redactor;
	readonly #engine = createEngine();
	readonly #send: StandInPorts['send'];

	/** @throws HeronError standIn.none, project.invalid */
	constructor(order: StandInsOrder) {
		const { workspace, environment, secrets } = order;
		const known = [...workspace.standIns.keys()];
		for (const name of order.names)
			if (!known.includes(name)) throw new HeronError('standIn.none', { name, nearest: didYouMean(name, known) });
		this.#order = order;
		this.#names = order.names.length > 0 ? order.names : known;
		assertSound(workspace, this.#names);
		this.#redactor = createRedactor(secrets);
		// what is bound to hosts goes to no other one from here either
		const guard = guardOf(workspace.environments.get(environment), secrets);
		const sending = this.#engine.ports({ seed: 1, guard });
		const session = sending.openSession();
		this.#send = async (outgoing) => {
			const { exchanges, error } = await sending.send(prepared(outgoing), session, undefined);
			const reply = exchanges.at(-1)?.reply;
			if (!reply) throw error ?? new HeronError('send.failed', { detail: 'no answer came' });
			return { status: reply.status, headers: reply.headers, body: reply.body };
		};
	}

	/** Has them listen, then answer. */
	async start(): Promise<void> {
		const order = this.#order;
		for (const [index, name] of this.#names.entries()) {
			const spec = order.workspace.standIns.get(name)!;
			const port = order.port === undefined ? spec.port : order.port === 0 ? 0 : order.port + index;
			this.list.push(
				await listenFor(spec, {
					...{ host: order.host ?? '127.0.0.1', port, redactor: this.#redactor, send: this.#send },
					onCall: (record) => order.onCall?.(record),
					onChange: () => order.onChange?.()
				})
			);
		}
		for (const { spec, address } of this.list) this.addresses[spec.name] = address;
		await this.#serve(order);
	}

	/**
	 * Goes on with what the files say now, and with what it remembers.
	 * @throws HeronError project.invalid, standIn.restart where it has to begin anew: another port, base or TLS
	 */
	async renew(files: StandInsFiles): Promise<void> {
		assertSound(files.workspace, this.#names);
		for (const { spec } of this.list) {
			const next = files.workspace.standIns.get(spec.name);
			if (!next) throw new HeronError('standIn.none', { name: spec.name, nearest: '' });
			const same = (['port', 'base'] as const).every((key) => next[key] === spec[key]);
			if (!same || next.tls.on !== spec.tls.on || next.tls.client !== spec.tls.client)
				throw new HeronError('standIn.restart', { name: spec.name });
		}
		const before = this.list.map((one) => one.service());
		await this.#serve(files);
		for (const [index, one] of this.list.entries()) {
			const old = before[index]!;
			one.service().recall(old.remembered());
			const { faults: known } = one.service().spec;
			// those that the file does not name any more are off
			one.service().setFaults(old.faultsGiven().filter((fault) => typeof fault !== 'string' || known.has(fault)));
		}
	}

	async close(): Promise<void> {
		await Promise.all(this.list.map((one) => one.close()));
		this.#engine.close();
	}

	/** Gives each its service, by the files as they are. */
	async #serve(files: StandInsFiles): Promise<void> {
		const { workspace, environment } = files;
		const { set, secrets, faults } = this.#order;
		const portsOf = (seed: number): StandInPorts => {
			const ports = this.#engine.ports({ seed, readFile: (path) => files.readFile(path), data: files.data });
			return standInPorts(ports, this.#send);
		};
		const given = {
			set: { ...set, standIns: { ...(set.standIns as JsonObject | undefined), ...this.addresses } },
			secrets,
			run: unrecordedRun(environment, Date.now())
		};
		const { names: all, broken } = await startNames(workspace, environment, given, portsOf(1), this.#redactor);
		const names = { env: all.env, secret: all.secret, run: all.run };
		const made = this.list.map((one) => {
			const spec = workspace.standIns.get(one.spec.name)!;
			return createService(spec, { workspace, names, broken, ports: portsOf(spec.seed) });
		});
		for (const service of made) await service.ready();
		for (const [index, service] of made.entries()) {
			if (faults) service.setFaults([...service.spec.faulty, ...faults]);
			this.list[index]!.serve(service);
		}
	}
}

/** @throws HeronError project.invalid when a file of theirs is wrong */
function assertSound(workspace: Workspace, names: readonly string[]): void {
	const files = new Set(names.map((name) => `stand-ins/${name}.yaml`));
	const problems = workspace.problems.filter(({ file }) => files.has(file));
	if (problems.length > 0)
		throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
}

/** A call as it goes out: no redirect is followed, and no cookie kept. */
function prepared({ method, url, headers, body }: Outgoing) {
	const { host } = new URL(url);
	const own = headers.filter(([name]) => !/^(host|content-length|connection)$/i.test(name));
	const sized = body.length > 0 || !/^(GET|HEAD|DELETE|OPTIONS|TRACE)$/.test(method);
	const all: [string, string][] = [
		['Host', host],
		...own,
		...(sized ? ([['Content-Length', String(body.length)]] as [string, string][]) : []),
		['Connection', 'keep-alive']
	];
	return {
		...{ method, url, body, headers: all },
		origins: all.map(() => 'added' as const),
		timeouts: DEFAULT_TIMEOUTS,
		redirects: { ...DEFAULT_REDIRECTS, follow: 0 },
		forgetCookies: true
	};
}
