import { readConfig, type Config } from '#server/config.ts';
import { createHost, type EngineHost } from '#server/engine/host.ts';
import { readSecrets } from '#server/engine/index.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { createProjects, type OpenProject, type Projects } from './projects.ts';
import { createRuns, type Runs } from './runs.ts';

/** Everything that the endpoints use; made once in a process. */
export interface App {
	config: Config;
	store: Store;
	host: EngineHost;
	projects: Projects;
	runs: Runs;
	/** Values of the secrets that an environment names; they never leave the server. */
	secretsOf(project: OpenProject, environment: string): Record<string, string>;
	close(): Promise<void>;
}

// in development modules are loaded anew on every change, and the database must not be
const KEY = Symbol.for('loyal-heron.app');
const holder = globalThis as unknown as Record<symbol, Promise<App> | undefined>;

async function create(): Promise<App> {
	const config = readConfig(process.env);
	const store = await createStore(config.database, config.databaseLimit);
	await store.runs.markInterrupted();
	const host = createHost(__APP_VERSION__);
	const projects = createProjects(store.files);
	const secretsOf = (project: OpenProject, environment: string) =>
		readSecrets(config.env, project.workspace.environments.get(environment)?.secrets ?? []);
	const runs = createRuns(store.runs, host, projects, secretsOf);
	return {
		config,
		store,
		host,
		projects,
		runs,
		secretsOf,
		async close() {
			runs.close();
			await host.close();
			await store.close();
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
	await (await made)?.close();
}
