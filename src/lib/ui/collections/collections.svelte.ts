import { newest } from '../common/newest.ts';
import { counted } from '#core/messages.ts';
import type { CollectionBrief, ScenarioStates, WrittenFile } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';
import { toasts } from '../common/toast.svelte.ts';
import { offerUndo } from '../common/undo.ts';
import { keep, keys, readKept, withKeys, type Keys } from './keys.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

export type CollectionInfo = CollectionBrief;
export type ScenarioInfo = CollectionInfo['scenarios'][number];

/** Which scenarios are listed. */
export const SHOWN = {
	all: 'all scenarios',
	bad: 'scenarios that did not pass',
	never: 'scenarios that never ran',
	off: 'scenarios that are off'
} as const;
export type Shown = keyof typeof SHOWN;

export type CollectionRow =
	| {
			kind: 'folder';
			key: string;
			name: string;
			path: string;
			depth: number;
			collections: CollectionInfo[];
			folded: boolean;
	  }
	| { kind: 'collection'; key: string; collection: CollectionInfo; keys: string[]; folded: boolean }
	| { kind: 'scenario'; key: string; collection: CollectionInfo; scenario: ScenarioInfo };

const keyOf = (collection: string, scenario: string): string => `${collection}/${scenario}`;

/** The list of collections: how they stand, which are shown, and which scenarios are chosen. */
export class CollectionList {
	readonly project: ProjectState;
	states: ScenarioStates = $state.raw({});
	words = $state('');
	shown: Shown = $state('all');
	tag = $state('');
	chosen: Keys = $state.raw(keys());
	#folded: Keys = $state.raw(keys());
	readonly #ask = newest();

	constructor(project: ProjectState) {
		this.project = project;
		this.#folded = readKept(this.#place);
	}
	get #place(): string {
		return `folded.${this.project.name}`;
	}

	/** All tags of the project, each once. */
	tags = $derived.by(() => {
		const all = this.project.collections.flatMap(({ scenarios }) => scenarios.flatMap(({ tags }) => tags));
		return [...keys(all)].sort();
	});
	filtering = $derived(this.words.trim() !== '' || this.shown !== 'all' || this.tag !== '');

	/** Folders with what is in them: a folder stands where its first collection does. */
	rows = $derived.by((): CollectionRow[] => {
		const below = (path: readonly string[], collections: readonly CollectionInfo[]): CollectionRow[] => {
			const groups = new Map<string, CollectionInfo[]>(); // eslint-disable-line svelte/prefer-svelte-reactivity -- made and used here
			for (const one of collections) {
				const next = one.folder[path.length];
				const key = next === undefined ? `c ${one.name}` : `f ${next}`;
				groups.set(key, [...(groups.get(key) ?? []), one]);
			}
			return [...groups].flatMap(([key, inside]): CollectionRow[] => {
				if (key.startsWith('c ')) return this.#rowsOf(inside[0]!);
				const folder = [...path, key.slice(2)];
				const place = `${folder.join('/')}/`;
				const rows = below(folder, inside);
				if (rows.length === 0) return [];
				const folded = !this.filtering && this.#folded.has(place);
				return [
					{
						...{ kind: 'folder', key: place, name: key.slice(2), path: folder.join('/') },
						...{ depth: path.length, collections: inside, folded }
					},
					...(folded ? [] : rows)
				];
			});
		};
		return below([], this.project.collections);
	});
	/** Folders of the project, as paths. */
	folders = $derived.by(() => [
		...keys(
			this.project.collections.flatMap(({ folder }) => folder.map((_, index) => folder.slice(0, index + 1).join('/')))
		)
	]);

	#rowsOf(collection: CollectionInfo): CollectionRow[] {
		const words = this.words.toLowerCase().split(/\s+/).filter(Boolean);
		const named = `${collection.title} ${collection.name} ${collection.folder.join('/')}`.toLowerCase();
		const scenarios = collection.scenarios.filter((scenario) => {
			const text = `${named} ${scenario.title} ${scenario.id} ${scenario.tags.join(' ')}`.toLowerCase();
			return words.every((word) => text.includes(word)) && this.#isShown(collection.name, scenario);
		});
		if (this.filtering && scenarios.length === 0) {
			// an empty collection is found by its name
			const fits = words.length > 0 && words.every((word) => named.includes(word));
			if (!fits || this.shown !== 'all' || this.tag !== '' || collection.scenarios.length > 0) return [];
		}
		const folded = !this.filtering && this.#folded.has(collection.name);
		const own = scenarios.map(({ id }) => keyOf(collection.name, id));
		return [
			{ kind: 'collection', key: collection.name, collection, keys: own, folded },
			...(folded ? [] : scenarios).map((scenario): CollectionRow => ({
				kind: 'scenario',
				key: keyOf(collection.name, scenario.id),
				collection,
				scenario
			}))
		];
	}
	/** Scenarios that are listed, folded ones among them. */
	listed = $derived(this.rows.flatMap((row) => (row.kind === 'collection' ? row.keys : [])));

	#isShown(collection: string, scenario: ScenarioInfo): boolean {
		if (this.tag && !scenario.tags.includes(this.tag)) return false;
		const state = this.states[keyOf(collection, scenario.id)];
		if (this.shown === 'bad') return state !== undefined && state.outcome !== 'passed';
		if (this.shown === 'never') return state === undefined && !scenario.off;
		return this.shown === 'off' ? scenario.off : true;
	}

	/** How a collection stands, in short. */
	sumOf({ name, scenarios }: CollectionInfo): { passed: number; bad: number; never: number; at: number } {
		const sum = { passed: 0, bad: 0, never: 0, at: 0 };
		for (const { id, off } of scenarios) {
			const state = this.states[keyOf(name, id)];
			if (state) sum.at = Math.max(sum.at, state.at);
			if (!state) sum.never += off ? 0 : 1;
			else if (state.outcome === 'passed') sum.passed++;
			else sum.bad++;
		}
		return sum;
	}

	fold(collection: string): void {
		this.#keep(withKeys(this.#folded, [collection], !this.#folded.has(collection)));
	}
	foldAll(folded: boolean): void {
		this.#keep(keys(folded ? this.project.collections.map(({ name }) => name) : []));
	}
	get allFolded(): boolean {
		return this.project.collections.every(({ name }) => this.#folded.has(name));
	}
	#keep(folded: Keys): void {
		this.#folded = folded;
		keep(this.#place, folded);
	}

	/** Chooses scenarios, or leaves them out again. */
	choose(some: readonly string[], chosen: boolean): void {
		this.chosen = withKeys(this.chosen, some, chosen);
	}
	chooseNone(): void {
		this.chosen = keys();
	}

	async load(): Promise<void> {
		const isNewest = this.#ask();
		const found = await api.get<ScenarioStates>(
			`/projects/${this.project.name}/states?environment=${encodeURIComponent(this.project.environment)}`
		);
		if (isNewest()) this.states = found;
	}

	/** Changes the scenarios that are chosen, and offers to take it back. @param words what was done, for people */
	async change(order: { do: string; tag?: string; to?: string }, words: string): Promise<void> {
		const scenarios = [...this.chosen];
		const at = `/projects/${this.project.name}`;
		try {
			const { written } = await api.post<{ written: WrittenFile[] }>(`${at}/scenarios`, { ...order, scenarios });
			if (order.do === 'delete' || order.do === 'move') this.chooseNone();
			await this.#refresh();
			offerUndo(this.project, written, `${counted(scenarios.length, 'scenario')} ${words}.`, () => this.load());
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	/** Puts a collection before another one, into a folder; without one all stand in the order of their names again. */
	async place(placement: { collection?: string; before?: string; folder?: string }, words: string): Promise<void> {
		try {
			const at = `/projects/${this.project.name}/order`;
			const { written } = await api.post<{ written: WrittenFile[] }>(at, placement);
			if (written.length === 0) return;
			await this.#refresh();
			offerUndo(this.project, written, words, () => this.load());
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	/** Puts a collection before the one above it in its folder, or behind the one below it. */
	async step(collection: CollectionInfo, way: -1 | 1): Promise<void> {
		const folder = collection.folder.join('/');
		const all = this.project.collections;
		const beside = all.filter((one) => one.folder.join('/') === folder);
		const at = beside.indexOf(collection);
		const other = beside[at + way];
		if (!other) return;
		// behind it is before whatever follows it
		const before =
			way < 0
				? other.name
				: all.filter((one) => one !== collection)[all.filter((one) => one !== collection).indexOf(other) + 1]?.name;
		await this.place(
			{ collection: collection.name, folder, ...(before === undefined ? {} : { before }) },
			`${collection.title} is ${way < 0 ? 'before' : 'behind'} ${other.title}.`
		);
	}
	async #refresh(): Promise<void> {
		await this.project.reload();
		await this.load();
	}
}
