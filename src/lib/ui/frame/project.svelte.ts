import type { Problem } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import type { Suite } from '#core/model/suite.ts';
import type { Summary, Use } from '#core/run/index.ts';
import type { ProjectVersion, RunStatus } from '$lib/wire.ts';
import { getContext, setContext } from 'svelte';
import { api } from '../common/api.ts';
import { keepChosen } from './chosen.ts';

export interface Overview {
	name: string;
	title: string;
	/** The folder on the server's machine that it is, and why that cannot be used. */
	folder?: { dir: string; trouble: string };
	environment: string;
	environments: {
		name: string;
		title: string;
		guarded: boolean;
		/** Names of secrets that are needed there. */
		secrets: string[];
		/** Connections that a stand-in answers for there, and which. */
		standIns: Record<string, string>;
		/** Variables that have a value of this machine there. */
		local: string[];
	}[];
	connections: {
		name: string;
		title: string;
		base: string;
		/** The credential it bears: by environment where it differs, under the empty name elsewhere. */
		credentials: Record<string, string>;
		/** Somewhere the other side's certificate is not looked at. */
		unverified: boolean;
		uses: Use[];
	}[];
	credentials: {
		name: string;
		title: string;
		kind: string;
		label: string;
		uses: Use[];
		/** Connections that bear it. */
		connections: string[];
	}[];
	suites: Suite[];
	/** Whether collections stand in an order of their own, not in that of their names. */
	ordered: boolean;
	collections: {
		name: string;
		title: string;
		/** The folder in which it is listed, from the outermost. */
		folder: string[];
		connection: string;
		/** All connections that its steps go through. */
		through: string[];
		scenarios: {
			id: string;
			title: string;
			tags: string[];
			off: boolean;
			/** The dataset that it runs over. */
			data?: string;
			count: number;
			steps: { id: string; title: string; call: string }[];
		}[];
	}[];
	files: string[];
	problems: Problem[];
}

/** How long a token lives. Milliseconds since 1970; `endsAt` is 0 when its server did not say. */
export interface TokenLife {
	credential: string;
	receivedAt: number;
	endsAt: number;
	/** Another one can be had without anybody. */
	renewable: boolean;
}

/** What all pages of a project share: its outline, the chosen environment, and what does not resolve there. */
export class ProjectState {
	overview: Overview = $state.raw({} as Overview);
	environment = $state('');
	unresolved: Problem[] = $state.raw([]);
	/** Values of variables as they resolve in the environment, for hints. */
	values: Record<string, Json> = $state.raw({});
	secrets: string[] = $state.raw([]);
	tokens: TokenLife[] = $state.raw([]);
	/** Stand-ins of the environment that do not run. */
	standInsOff: string[] = $state.raw([]);
	/** Whether somebody has looked yet. */
	resolved = $state(false);
	resolveTrouble = $state('');
	/** What cannot be read in the vault. */
	vaultTrouble = $state('');
	/** Whether somebody has looked for the last run. */
	lastRunKnown = $state(false);
	lastRun: { id: string; number: number; status: RunStatus; summary: Summary } | undefined = $state.raw();

	/** @param chosen the environment that was chosen before */
	constructor(overview: Overview, chosen = '') {
		this.overview = overview;
		const known = overview.environments.map((environment) => environment.name);
		this.environment = known.includes(chosen) ? chosen : overview.environment || known[0] || '';
	}

	/** Where its folder stands in version control, and what differs from the commit. */
	version: ProjectVersion | undefined = $state.raw();
	#versions = 0;
	#versionSoon: ReturnType<typeof setTimeout> | undefined;
	/** Looks once for changes that come together: each look asks version control about every file that differs. */
	lookForVersion(): void {
		clearTimeout(this.#versionSoon);
		this.#versionSoon = setTimeout(() => void this.loadVersion(), VERSION_AFTER_MS);
	}
	async loadVersion(): Promise<void> {
		const asked = ++this.#versions;
		// it is told as a convenience alone
		const found = await api.get<Partial<ProjectVersion>>(`/projects/${this.name}/version`).catch(() => ({}));
		if (asked === this.#versions) this.version = 'changed' in found ? (found as ProjectVersion) : undefined;
	}
	/** What of a collection differs from the commit: by `scenario` and `scenario/step`. */
	marksOf(collection: string): Record<string, 'new' | 'changed'> {
		return this.changeOf(`collections/${collection}.yaml`)?.steps ?? {};
	}
	/** How a file differs from the commit; nothing before the first one. */
	changeOf(path: string): ProjectVersion['changed'][number] | undefined {
		return this.version?.commit ? this.version.changed.find((one) => one.path === path) : undefined;
	}

	get name(): string {
		return this.overview.name;
	}
	/** Names of its documents in a folder. */
	namesIn(folder: string): string[] {
		return this.overview.files.flatMap((path) =>
			path.startsWith(`${folder}/`) && path.endsWith('.yaml') ? [path.slice(folder.length + 1, -5)] : []
		);
	}
	/** Files of datasets, without their folder. */
	get datasets(): string[] {
		const folder = 'datasets/';
		return this.overview.files.flatMap((path) => (path.startsWith(folder) ? [path.slice(folder.length)] : []));
	}
	/** Variables that have a value of this machine in the chosen environment. */
	get local(): string[] {
		return this.overview.environments.find((one) => one.name === this.environment)?.local ?? [];
	}
	/** Connections that a stand-in answers for in the chosen environment, and which. */
	get stoodIn(): [connection: string, standIn: string][] {
		return Object.entries(this.overview.environments.find((one) => one.name === this.environment)?.standIns ?? {});
	}
	get guarded(): boolean {
		return this.overview.environments.find((one) => one.name === this.environment)?.guarded ?? false;
	}

	/** The credential that a connection bears in the environment; empty for none. */
	credentialOf(connection: string): string {
		const found = this.overview.connections.find((one) => one.name === connection)?.credentials ?? {};
		const name = found[this.environment] ?? found[''] ?? '';
		return name === 'none' ? '' : name;
	}

	choose(environment: string): void {
		this.environment = environment;
		keepChosen(this.name, environment);
	}

	#reloads = 0;
	#resolves = 0;

	async reload(): Promise<void> {
		const asked = ++this.#reloads;
		const found = await api.get<Overview>(`/projects/${this.name}`);
		// an older reply that comes later is of no use
		if (asked === this.#reloads) this.overview = found;
		await this.resolve();
	}

	async resolve(): Promise<void> {
		const asked = ++this.#resolves;
		try {
			const found = await api.get<{
				problems: Problem[];
				standInsOff: string[];
				values: Record<string, Json>;
				secrets: string[];
				tokens: TokenLife[];
				vaultTrouble: string;
			}>(`/projects/${this.name}/resolve?environment=${encodeURIComponent(this.environment)}`);
			if (asked !== this.#resolves) return;
			this.unresolved = found.problems;
			this.values = found.values;
			this.standInsOff = found.standInsOff;
			this.secrets = found.secrets;
			this.tokens = found.tokens;
			this.vaultTrouble = found.vaultTrouble;
			this.resolveTrouble = '';
			this.resolved = true;
		} catch (error) {
			if (asked === this.#resolves) this.resolveTrouble = error instanceof Error ? error.message : String(error);
		}
	}

	async loadLastRun(): Promise<void> {
		const [last] = await api.get<{ id: string; number: number; status: RunStatus; summary: Summary }[]>(
			`/projects/${this.name}/runs?limit=1`
		);
		this.lastRun = last;
		this.lastRunKnown = true;
	}
}

/** So long after a change version control is asked. */
const VERSION_AFTER_MS = 400;

const KEY = Symbol('project');
export const provideProject = (state: () => ProjectState): void => void setContext(KEY, state);
/** The project of the page. */
export const useProject = (): (() => ProjectState) => getContext<() => ProjectState>(KEY);
