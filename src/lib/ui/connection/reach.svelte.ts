import { STAGES, STAGE_TITLES, type Fix, type ReachReport, type Stage } from '#core/reach/index.ts';
import type { ShownExchange } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';

export type ShownReport = Omit<ReachReport, 'exchanges'> & { exchanges?: ShownExchange[] };

/** A reach check on the screen: the last one, or one under way. */
export class Reach {
	readonly project: string;
	readonly target: string;
	stages: Stage[] = $state.raw([]);
	report: ShownReport | undefined = $state.raw();
	trouble = $state('');
	running = $state(false);
	#stop: AbortController | undefined;
	#asked = 0;

	constructor(project: string, target: string) {
		this.project = project;
		this.target = target;
	}

	/** All seven stages, those that are not known yet as such. */
	get rows(): (Stage | { key: Stage['key']; title: string; state: 'waiting' })[] {
		return STAGES.map(
			(key) =>
				this.stages.find((stage) => stage.key === key) ?? { key, title: STAGE_TITLES[key], state: 'waiting' as const }
		);
	}

	async last(environment: string): Promise<void> {
		if (this.running) return;
		const query = `target=${encodeURIComponent(this.target)}&environment=${encodeURIComponent(environment)}`;
		const asked = ++this.#asked;
		const found = await api.get<ShownReport | null>(`/projects/${this.project}/reach?${query}`);
		if (this.running || asked !== this.#asked) return;
		this.report = found ?? undefined;
		this.stages = found?.stages ?? [];
	}

	async check(
		environment: string,
		given: { method?: string; suites?: boolean; path?: string; credential?: string } = {}
	): Promise<void> {
		this.stop();
		const stop = (this.#stop = new AbortController());
		this.stages = [];
		this.report = undefined;
		this.trouble = '';
		this.running = true;
		const hear = (line: unknown) => {
			const update = line as { stage?: Stage; report?: ShownReport; trouble?: string };
			if (update.stage) this.stages = [...this.stages, update.stage];
			if (update.report) {
				this.report = update.report;
				this.stages = update.report.stages;
			}
			if (update.trouble) this.trouble = update.trouble;
		};
		try {
			const order = { target: this.target, environment, ...given };
			await api.lines(`/projects/${this.project}/reach`, order, hear, stop.signal);
		} catch (error) {
			if (!stop.signal.aborted) this.trouble = messageOf(error);
		} finally {
			if (this.#stop === stop) this.running = false;
		}
	}

	stop(): void {
		this.#stop?.abort();
		this.running = false;
	}

	/** Applies a fix; gives a function that takes it back, unless the files were changed in the meantime. */
	async fix({ edits, files }: Fix): Promise<() => Promise<void>> {
		interface Done {
			changed: { file: string; text: string; revision: number }[];
			added: { file: string; revision: number }[];
		}
		const order = { edits, ...(files ? { files } : {}) };
		const { changed, added } = await api.post<Done>(`/projects/${this.project}/fix`, order);
		const at = `/projects/${this.project}/files`;
		return async () => {
			for (const { file, text, revision } of changed) await api.put(`${at}/${file}`, { text, revision });
			for (const { file, revision } of added) await api.remove(`${at}/${file}?revision=${revision}`);
		};
	}
}
