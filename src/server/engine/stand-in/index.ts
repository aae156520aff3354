import { HeronError } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import type { JsonObject } from '#core/model/json.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS } from '#core/documents/connection.ts';
import type { Workspace } from '#core/project/index.ts';
import { createRedactor } from '#core/redact/index.ts';
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

/** Stand-ins of a project that run in this process. */
export interface StandInsNow {
	list: Listener[];
	/** Their addresses, by name: what `$env.standIns` is. */
	addresses: Record<string, string>;
	/**
	 * Goes on with what the files say now, and with what it remembers.
	 * @throws HeronError project.invalid, standIn.restart where it has to begin anew: another port, base or TLS
	 */
	renew(order: StandInsFiles): Promise<void>;
	close(): Promise<void>;
}

/**
 * Starts stand-ins; each listens before any of them answers, so that they know each other's addresses.
 * @throws HeronError standIn.none, standIn.port, project.invalid, dataset.*, definition.*
 */
export async function startStandIns(order: StandInsOrder): Promise<StandInsNow> {
	const known = [...order.workspace.standIns.keys()];
	for (const name of order.names)
		if (!known.includes(name)) throw new HeronError('standIn.none', { name, nearest: didYouMean(name, known) });
	const names = order.names.length > 0 ? order.names : known;
	assertSound(order.workspace, names);
	const redactor = createRedactor(order.secrets);
	const engine = createEngine();
	// what is bound to hosts goes to no other one from here either
	const guard = guardOf(order.workspace.environments.get(order.environment), order.secrets);
	const sending = engine.ports({ seed: 1, guard });
	const session = sending.openSession();
	const send: StandInPorts['send'] = async (outgoing) => {
		const { exchanges, error } = await sending.send(prepared(outgoing), session, undefined);
		const reply = exchanges.at(-1)?.reply;
		if (!reply) throw error ?? new HeronError('send.failed', { detail: 'no answer came' });
		return { status: reply.status, headers: reply.headers, body: reply.body };
	};
	const list: Listener[] = [];
	const close = async (): Promise<void> => {
		await Promise.all(list.map((one) => one.close()));
		engine.close();
	};
	const addresses: Record<string, string> = {};

	/** Gives each its service, by the files as they are. */
	async function serve(files: StandInsFiles): Promise<void> {
		const { workspace, environment } = files;
		const portsOf = (seed: number): StandInPorts => {
			const ports = engine.ports({ seed, readFile: (path) => files.readFile(path), data: files.data });
			return standInPorts(ports, send);
		};
		const given = {
			set: { ...order.set, standIns: { ...(order.set.standIns as JsonObject | undefined), ...addresses } },
			secrets: order.secrets,
			run: unrecordedRun(environment, Date.now())
		};
		const start = await startNames(workspace, environment, given, portsOf(1), redactor);
		const { names: all, broken } = start;
		const made = list.map((one) => {
			const spec = workspace.standIns.get(one.spec.name)!;
			return createService(spec, {
				...{ workspace, names: { env: all.env, secret: all.secret, run: all.run }, broken, ports: portsOf(spec.seed) }
			});
		});
		for (const service of made) await service.ready();
		for (const [index, service] of made.entries()) {
			if (order.faults) service.setFaults([...service.spec.faulty, ...order.faults]);
			list[index]!.serve(service);
		}
	}

	try {
		for (const [index, name] of names.entries()) {
			const spec = order.workspace.standIns.get(name)!;
			const port = order.port === undefined ? spec.port : order.port === 0 ? 0 : order.port + index;
			list.push(
				await listenFor(spec, {
					...{ host: order.host ?? '127.0.0.1', port, redactor, send },
					onCall: (record) => order.onCall?.(record),
					onChange: () => order.onChange?.()
				})
			);
		}
		for (const { spec, address } of list) addresses[spec.name] = address;
		await serve(order);
	} catch (error) {
		await close();
		throw error;
	}
	return {
		list,
		addresses,
		async renew(files) {
			assertSound(files.workspace, names);
			for (const { spec } of list) {
				const next = files.workspace.standIns.get(spec.name);
				if (!next) throw new HeronError('standIn.none', { name: spec.name, nearest: '' });
				const same = (['port', 'base'] as const).every((key) => next[key] === spec[key]);
				if (!same || next.tls.on !== spec.tls.on || next.tls.client !== spec.tls.client)
					throw new HeronError('standIn.restart', { name: spec.name });
			}
			const before = list.map((one) => one.service());
			await serve(files);
			for (const [index, one] of list.entries()) {
				const old = before[index]!;
				one.service().recall(old.remembered());
				const { faults: known } = one.service().spec;
				// those that the file does not name any more are off
				one.service().setFaults(old.faultsGiven().filter((fault) => typeof fault !== 'string' || known.has(fault)));
			}
		},
		close
	};
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
