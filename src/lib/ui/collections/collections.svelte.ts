import { counted } from '#core/messages.ts';
import type { ScenarioStates } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { Overview, ProjectState } from '../frame/project.svelte.ts';

export type CollectionInfo = Overview['collections'][number];
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
	chosen: ReadonlySet<string> = $state.raw(new Set());
	#folded: ReadonlySet<string> = $state.raw(new Set());
	#asked = 0;

	constructor(project: ProjectState) {
		this.project = project;
		try {
			this.#folded = new Set(JSON.parse(sessionStorage.getItem(this.#place) ?? '[]') as string[]);
		} catch {
			// a browser may keep nothing
		}
	}
	get #place(): string {
		return `folded.${this.project.name}`;
	}

	/** All tags of the project, each once. */
	tags = $derived.by(() => {
		const all = this.project.overview.collections.flatMap(({ scenarios }) => scenarios.flatMap(({ tags }) => tags));
		return [...new Set(all)].sort();
	});
	filtering = $derived(this.words.trim() !== '' || this.shown !== 'all' || this.tag !== '');

	rows = $derived.by((): CollectionRow[] => {
		const words = this.words.toLowerCase().split(/\s+/).filter(Boolean);
		return this.project.overview.collections.flatMap((collection): CollectionRow[] => {
			const own = `${collection.title} ${collection.name}`.toLowerCase();
			const scenarios = collection.scenarios.filter((scenario) => {
				const text = `${own} ${scenario.title} ${scenario.id} ${scenario.tags.join(' ')}`.toLowerCase();
				return words.every((word) => text.includes(word)) && this.#isShown(collection.name, scenario);
			});
			if (this.filtering && scenarios.length === 0) {
				// an empty collection is found by its name
				const named = words.length > 0 && words.every((word) => own.includes(word));
				if (!named || this.shown !== 'all' || this.tag !== '' || collection.scenarios.length > 0) return [];
			}
			const folded = !this.filtering && this.#folded.has(collection.name);
			const keys = scenarios.map(({ id }) => keyOf(collection.name, id));
			return [
				{ kind: 'collection', key: collection.name, collection, keys, folded },
				...(folded ? [] : scenarios).map((scenario): CollectionRow => ({
					kind: 'scenario',
					key: keyOf(collection.name, scenario.id),
					collection,
					scenario
				}))
			];
		});
	});
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
		const next = new Set(this.#folded);
		if (!next.delete(collection)) next.add(collection);
		this.#keep(next);
	}
	foldAll(folded: boolean): void {
		this.#keep(new Set(folded ? this.project.overview.collections.map(({ name }) => name) : []));
	}
	get allFolded(): boolean {
		return this.project.overview.collections.every(({ name }) => this.#folded.has(name));
	}
	#keep(folded: ReadonlySet<string>): void {
		this.#folded = folded;
		try {
			sessionStorage.setItem(this.#place, JSON.stringify([...folded]));
		} catch {
			// it is folded as long as the page is there
		}
	}

	/** Chooses scenarios, or leaves them out again. */
	choose(keys: readonly string[], chosen: boolean): void {
		const next = new Set(this.chosen);
		for (const key of keys) {
			if (chosen) next.add(key);
			else next.delete(key);
		}
		this.chosen = next;
	}

	async load(): Promise<void> {
		const asked = ++this.#asked;
		const found = await api.get<ScenarioStates>(
			`/projects/${this.project.name}/states?environment=${encodeURIComponent(this.project.environment)}`
		);
		if (asked === this.#asked) this.states = found;
	}

	/** Changes the scenarios that are chosen, and offers to take it back. @param words what was done, for people */
	async change(order: { do: string; tag?: string; to?: string }, words: string): Promise<void> {
		const scenarios = [...this.chosen];
		const at = `/projects/${this.project.name}`;
		try {
			const { changed } = await api.post<{ changed: { file: string; text: string; revision: number }[] }>(
				`${at}/scenarios`,
				{ ...order, scenarios }
			);
			if (order.do === 'delete' || order.do === 'move') this.chosen = new Set();
			await this.#refresh();
			toasts.show(`${counted(scenarios.length, 'scenario')} ${words}.`, 'note', {
				label: 'undo',
				run: () =>
					void Promise.all(
						changed.map(({ file, text, revision }) => api.put(`${at}/files/${file}`, { text, revision }))
					)
						.then(() => this.#refresh())
						.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
			});
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async #refresh(): Promise<void> {
		await this.project.reload();
		await this.load();
	}
}
