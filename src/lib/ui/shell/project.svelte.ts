import { newest } from '../common/newest.ts';
import type { Problem } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import type { Suite } from '#core/documents/suite.ts';
import type { Summary, Use } from '#core/run/index.ts';
import type { CollectionBrief, CollectionsNow, ProjectVersion, RunStatus } from '$lib/wire.ts';
import { browser } from '$app/environment';
import { getContext, setContext } from 'svelte';
import { api } from '../common/api.ts';
import type { DocumentState } from '../common/document.svelte.ts';
import { keepChosen } from './chosen.ts';
import { withChanges } from './collections-now.ts';

export interface Overview {
	/** Of two the larger one is newer. */
	asOf: number;
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
		/** Collections that use it, so many at most, and how many more. */
		uses: Use[];
		moreUses: number;
		/** Steps that use it. */
		usedSteps: number;
	}[];
	credentials: {
		name: string;
		title: string;
		kind: string;
		label: string;
		uses: Use[];
		moreUses: number;
		usedSteps: number;
		/** Connections that bear it. */
		connections: string[];
	}[];
	suites: Suite[];
	/** Whether collections stand in an order of their own, not in that of their names. */
	ordered: boolean;
	/** How many collections there are; they are listed by themselves. */
	count: number;
	/** All files but the collections that are listed. */
	files: string[];
	/** What is wrong in the files, so much at most, and how much there is. */
	problems: Problem[];
	problemCount: number;
}

/** How a project resolves in an environment. */
export interface Resolved {
	environment: string;
	problems: Problem[];
	standInsOff: string[];
	values: Record<string, Json>;
	secrets: string[];
	tokens: TokenLife[];
	vaultTrouble: string;
}
/** All that pages show of a project, in one answer. */
export type ProjectNow = Overview & {
	/** Or why nobody knows. */
	resolved?: Resolved | { environment: string; trouble: string };
	collections?: CollectionsNow;
};

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
	/** Its name stays; the title may change. */
	readonly name: string;
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
		this.name = overview.name;
		this.overview = overview;
		const known = overview.environments.map((environment) => environment.name);
		this.environment = known.includes(chosen) ? chosen : overview.environment || known[0] || '';
	}

	/** Where its folder stands in version control, and what differs from the commit. */
	version: ProjectVersion | undefined = $state.raw();
	readonly #askVersion = newest();
	#versionSoon: ReturnType<typeof setTimeout> | undefined;
	/** Looks once for changes that come together: each look asks version control about every file that differs. */
	lookForVersion(): void {
		clearTimeout(this.#versionSoon);
		this.#versionSoon = setTimeout(() => void this.loadVersion(), VERSION_AFTER_MS);
	}
	async loadVersion(): Promise<void> {
		const isNewest = this.#askVersion();
		// it is told as a convenience alone
		const found = await api.get<Partial<ProjectVersion>>(`/projects/${this.name}/version`).catch(() => ({}));
		if (isNewest()) this.version = 'changed' in found ? (found as ProjectVersion) : undefined;
	}
	/** What of a collection differs from the commit: by `scenario` and `scenario/step`. */
	marksOf(collection: string): Record<string, 'new' | 'changed'> {
		return this.changeOf(`collections/${collection}.yaml`)?.steps ?? {};
	}
	/** How a file differs from the commit; nothing before the first one. */
	changeOf(path: string): ProjectVersion['changed'][number] | undefined {
		return this.version?.commit ? this.version.changed.find((one) => one.path === path) : undefined;
	}

	/** Names of its documents in a folder; collections are not among them. */
	namesIn(folder: string): string[] {
		return this.overview.files.flatMap((path) =>
			path.startsWith(`${folder}/`) && path.endsWith('.yaml') ? [path.slice(folder.length + 1, -5)] : []
		);
	}
	/** Names that a new document of a folder cannot have, as they are now. */
	async takenIn(folder: string): Promise<string[]> {
		const listed = folder === 'collections';
		if (listed) await this.allCollections();
		await this.reload();
		return [...this.namesIn(folder), ...(listed ? this.collections.map(({ name }) => name) : [])];
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

	readonly #askProject = newest();
	readonly #askResolved = newest();

	/** Asks for what pages show, at once. */
	async reload(): Promise<void> {
		const isNewest = this.#askProject();
		const found = await api.get<ProjectNow>(`/projects/${this.name}?${this.query}`);
		// an older reply that comes later is of no use
		if (isNewest()) this.take(found);
	}

	/** Takes over what came with the answer of a save; without it, it is asked for. */
	saved(now: ProjectNow | undefined): void {
		if (!now) return void this.reload().catch(() => {});
		// what was asked for before is older
		this.#askProject();
		this.take(now);
	}

	/** By which the project as it is now is asked for. */
	get query(): string {
		const since = this.#version ? `&since=${this.#version}` : '';
		return `environment=${encodeURIComponent(this.environment)}${since}`;
	}

	/** Takes over what the server says of the project; what did not change stays what it was. */
	take({ resolved, collections, ...overview }: ProjectNow): void {
		// answers of two saves may overtake each other
		if (overview.asOf < this.overview.asOf) return;
		this.overview = overview;
		if (collections) this.#takeCollections(collections);
		if (resolved && resolved.environment === this.environment) {
			this.#askResolved();
			if ('trouble' in resolved) this.resolveTrouble = resolved.trouble;
			else this.#takeResolved(resolved);
		}
	}

	#takeResolved(found: Resolved): void {
		this.unresolved = found.problems;
		this.values = found.values;
		this.standInsOff = found.standInsOff;
		this.secrets = found.secrets;
		this.tokens = found.tokens;
		this.vaultTrouble = found.vaultTrouble;
		this.resolveTrouble = '';
		this.resolved = true;
	}

	async resolve(): Promise<void> {
		const isNewest = this.#askResolved();
		try {
			const url = `/projects/${this.name}/resolve?environment=${encodeURIComponent(this.environment)}`;
			const found = await api.get<Resolved>(url);
			if (isNewest()) this.#takeResolved(found);
		} catch (error) {
			if (isNewest()) this.resolveTrouble = error instanceof Error ? error.message : String(error);
		}
	}

	#collections: CollectionBrief[] = $state.raw([]);
	/** Whether the collections are there; until then there seem to be none. */
	collectionsKnown = $state(false);
	#version = '';
	#loading: Promise<void> | undefined;
	/** The collections, in their order: fetched when a page first looks, and kept up to date from then on. */
	get collections(): readonly CollectionBrief[] {
		// whoever looks from a derivation may change nothing
		if (!this.#loading && browser) queueMicrotask(() => void this.allCollections().catch(() => {}));
		return this.#collections;
	}
	/** The same, for whoever needs them all. */
	async allCollections(): Promise<readonly CollectionBrief[]> {
		this.#loading ??= api
			.get<CollectionsNow>(`/projects/${this.name}/collections`)
			.then((found) => this.#takeCollections(found));
		try {
			await this.#loading;
		} catch (error) {
			this.#loading = undefined;
			throw error;
		}
		return this.#collections;
	}
	/** Those that a page was given with its data; what was fetched before it is brought up to date. */
	give(found: CollectionsNow): void {
		this.#loading = Promise.resolve();
		if (!this.collectionsKnown) this.#takeCollections(found);
		this.#catchUp();
	}
	#catchUp(): void {
		api
			.get<CollectionsNow>(`/projects/${this.name}/collections?since=${this.#version}`)
			.then((now) => this.#takeCollections(now))
			// the next look tells it again
			.catch(() => {});
	}
	#takeCollections(found: CollectionsNow): void {
		if (found.since === undefined) this.#collections = found.collections;
		// the difference to what is not here any more says nothing: two answers have overtaken each other
		else if (found.since !== this.#version) return this.#catchUp();
		else this.#collections = withChanges(this.#collections, found);
		this.#version = found.version;
		this.collectionsKnown = true;
	}

	readonly #askLastRun = newest();
	async loadLastRun(): Promise<void> {
		const isNewest = this.#askLastRun();
		const [last] = await api.get<{ id: string; number: number; status: RunStatus; summary: Summary }[]>(
			`/projects/${this.name}/runs?limit=1`
		);
		if (!isNewest()) return;
		this.lastRun = last;
		this.lastRunKnown = true;
	}
}

/** Has each save of a document tell what becomes of the project, in its answer. @param then what else is to be done */
export function tellProject(project: () => ProjectState, document: DocumentState, then?: () => void): void {
	document.asksToo = () => project().query;
	document.onSaved = (now) => {
		project().saved(now as ProjectNow | undefined);
		then?.();
	};
}

/** So long after a change version control is asked. */
const VERSION_AFTER_MS = 400;

const KEY = Symbol('project');
export const provideProject = (state: () => ProjectState): void => void setContext(KEY, state);
/** The project of the page. */
export const useProject = (): (() => ProjectState) => getContext<() => ProjectState>(KEY);
