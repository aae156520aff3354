import { writeJson } from '#core/model/json.ts';
import { readConfig, type Config } from '#server/config.ts';
import { takeLock } from '#server/lock.ts';
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { createHost, type EngineHost } from '#server/engine/host/index.ts';
import { readSecrets } from '#server/engine/index.ts';
import type { JobName, Jobs, Progress, Sealed } from '#server/engine/protocol.ts';
import type { Token } from '#core/auth/index.ts';
import { createStore, keyFrom, keyOfFile, newKeyFile, type Store } from '#server/store/index.ts';
import { keepTokens } from './kept-tokens.ts';
import { createCallouts, type Callouts } from './callouts.ts';
import { BY_CLOCK, Clocks } from './clocks.ts';
import { Starting } from './starting.ts';
import { createCollectionsLog } from './overview.ts';
import { createProjects, type OpenProject, type Projects } from './projects.ts';
import { Published } from './published.ts';
import { createRuns, type Runs } from './runs.ts';
import { createStandIns, type StandIns } from './stand-ins.ts';
import { createTidying } from './tidying.ts';
import { currentVisitor } from './visitor.ts';

/** Everything that the endpoints use; made once in a process. */
export interface App {
	config: Config;
	store: Store;
	host: EngineHost;
	projects: Projects;
	runs: Runs;
	/** What became of the collections of projects. */
	collections: ReturnType<typeof createCollectionsLog>;
	/** Stand-ins of projects, that run or do not. */
	standIns: StandIns;
	/** Runs that are carried out elsewhere. */
	published: Published;
	/** Suites that nobody starts by hand. */
	starting: Starting;
	clocks: Clocks;
	callouts: Callouts;
	/** Secrets and tokens of an environment; they never leave the server. The vault's go over those of the process. */
	sealedOf(project: OpenProject, environment: string): Promise<Sealed>;
	/** Has a job done in the worker. */
	ask<N extends JobName>(
		type: N,
		project: OpenProject,
		environment: string,
		order: Jobs[N]['order'],
		options?: { id?: string; progress?: (progress: Progress) => void | Promise<void>; signal?: AbortSignal }
	): Promise<Jobs[N]['answer']>;
	close(): Promise<void>;
}

// in development modules are loaded anew on every change, and the database must not be
const KEY = Symbol.for('loyal-heron.app');
const holder = globalThis as unknown as Record<symbol, Promise<App> | undefined>;

async function create(): Promise<App> {
	const config = readConfig(process.env);
	const unlock = takeLock(join(config.dataDir, 'server.lock'));
	try {
		return await opened(config, unlock);
	} catch (error) {
		unlock();
		throw error;
	}
}

/** What an engine is asked to keep is kept in the vault. */
const hostFor = ({ vault }: Store): EngineHost =>
	createHost(__APP_VERSION__, {
		token(project, environment, credential, token) {
			const kept = token
				? vault.write(project, 'token', environment, credential, writeJson(token))
				: vault.remove(project, 'token', environment, credential);
			kept.catch((error: Error) => console.error(`the token of ${credential} could not be kept: ${error.message}`));
		},
		kept: (project, environment, scenario, kept) =>
			void keepTokens(vault, project, { environment, scenario }, kept).catch((error: Error) =>
				console.error(`what ${scenario} kept could not be sealed: ${error.message}`)
			)
	});

/** @param addresses where the stand-ins of a project listen */
const sealing =
	(config: Config, { vault }: Store, addresses: (project: string) => Sealed['standIns']): App['sealedOf'] =>
	async (project, environment) => {
		const { environments } = project.workspace;
		// of the process a project is given what its environment names, and nothing that is meant for another project
		const known = environment
			? (environments.get(environment)?.secrets ?? [])
			: [...environments.values()].flatMap((one) => one.secrets);
		const process = Object.entries(readSecrets(config.env, known)).filter(([name]) => known.includes(name));
		const [secrets, tokens] = await Promise.all([
			vault.read(project.name, 'secret', environment),
			vault.read(project.name, 'token', environment)
		]);
		return {
			secrets: { ...Object.fromEntries(process), ...secrets },
			standIns: addresses(project.name),
			tokens: Object.entries(tokens).map(([credential, text]) => ({ credential, token: JSON.parse(text) as Token }))
		};
	};

const asking =
	(host: EngineHost, projects: Projects, sealedOf: App['sealedOf']): App['ask'] =>
	async (type, project, environment, order, { signal, ...options } = {}) => {
		const sealed = await sealedOf(project, environment);
		const visitor = currentVisitor();
		if (!signal) return host.ask(type, projects.snapshot(project), sealed, order, { ...options, visitor });
		signal.throwIfAborted();
		const id = options.id ?? randomUUID();
		const stop = () => host.cancel(id);
		signal.addEventListener('abort', stop, { once: true });
		try {
			return await host.ask(type, projects.snapshot(project), sealed, order, { ...options, id, visitor });
		} finally {
			signal.removeEventListener('abort', stop);
		}
	};

async function storeFor(config: Config): Promise<Store> {
	const key = config.key ? keyFrom(config.key) : keyOfFile(config.keyFile);
	// one that was being changed when the machine stopped
	const next = newKeyFile(config.keyFile);
	const others = existsSync(next) ? [keyOfFile(next)] : [];
	return createStore(config.database, config.databaseLimit, key, others);
}

async function opened(config: Config, unlock: () => void): Promise<App> {
	const store = await storeFor(config);
	await store.runs.markInterrupted();
	const host = hostFor(store);
	const projects = createProjects(store.files);
	const sealedOf = sealing(config, store, (project) => standIns.addresses(project));
	const standIns = createStandIns(host, projects, sealedOf, store.standIns);
	void standIns.resume();
	const callouts = createCallouts(store, {
		origin: config.env.ORIGIN ?? '',
		agent: `loyal-heron/${__APP_VERSION__}`
	});
	let closed = false;
	const onRecorded = (run: string) => {
		if (closed) return;
		tidying.soon();
		starting.ended(run);
		callouts
			.ended(run)
			.catch((error: Error) => console.error(`nobody could be told of the run ${run}: ${error.message}`));
	};
	const runs = createRuns(store, host, projects, sealedOf, { onRecorded });
	const published = new Published(store.runs, onRecorded);
	const starting = new Starting(runs, projects, ({ project, suite, by }, why) => {
		if (by === BY_CLOCK)
			clocks
				.refused(project, suite, why)
				.catch((error: Error) => console.error(`the clock of ${suite} in ${project}: ${error.message}`));
	});
	const clocks = new Clocks(store.clocks, projects, starting);
	const tidying = createTidying(store, config.keep, () => runs.isBusy());
	const [collections, ask] = [createCollectionsLog(), asking(host, projects, sealedOf)];
	return {
		...{ config, store, host, projects, collections, runs, standIns, published, starting, clocks, callouts },
		...{ sealedOf, ask },
		async close() {
			closed = true;
			for (const one of [tidying, clocks, starting, callouts, runs, standIns, published]) one.close();
			await projects.close();
			// clean-up has its time; what is not done by then ends with its process
			await runs.settled();
			await host.close();
			await runs.settled();
			await store.close();
			unlock();
		}
	};
}

export const app = (): Promise<App> => {
	const made = (holder[KEY] ??= create());
	// a database that could not be opened is tried again with the next request
	made.catch(() => (holder[KEY] = undefined));
	return made;
};

export async function closeApp(): Promise<void> {
	const made = holder[KEY];
	holder[KEY] = undefined;
	// one that could not be made has nothing to close
	await (await made?.catch(() => undefined))?.close();
}
