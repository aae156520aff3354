import { countStep, emptySummary, standingOf, type Standing, type Summary } from '#core/run/index.ts';
import type { LiveEvent, StoredRun, StoredStep } from '$lib/wire.ts';
import { api } from '../common/api.ts';
import { followRun, type Following } from './follow.ts';

/** A run on the screen, as far as it has come. */
export class RunSheetState {
	run: StoredRun = $state.raw() as StoredRun;
	steps: StoredStep[] = $state.raw([]);
	under = $state('');
	#following: Following | undefined;

	constructor(run: StoredRun, steps: StoredStep[]) {
		this.run = run;
		this.steps = steps;
	}

	get going(): boolean {
		return this.run.status === 'running';
	}
	summary: Summary = $derived.by(() => {
		const summary = emptySummary();
		for (const step of this.steps) countStep(summary, step);
		return summary;
	});
	/** Results but for attempts that were tried again. */
	counted = $derived(this.steps.filter((step) => !step.superseded).length);
	/** What did not pass: failures first. */
	faults = $derived(this.#bad('failed', 'error'));
	/** What did not pass and is known. */
	known = $derived(this.#bad('quarantined'));

	#bad(...standings: Standing[]): StoredStep[] {
		return this.steps
			.filter((step) => standings.includes(standingOf(step)))
			.sort((a, b) => Number(a.outcome === 'error') - Number(b.outcome === 'error') || a.seq - b.seq);
	}

	follow(onEnd: () => void): void {
		if (!this.going) return;
		const waiting: StoredStep[] = [];
		let frame = 0;
		const flush = () => {
			frame = 0;
			// what was read at the end holds them already
			const last = this.steps.at(-1)?.seq ?? -1;
			this.steps = [...this.steps, ...waiting.splice(0).filter((step) => step.seq > last)];
		};
		this.#following = followRun(this.run.id, this.steps.at(-1)?.seq ?? -1, (event: LiveEvent) => {
			if (event.type === 'begin') this.under = `${event.scenario} › ${event.step}`;
			else if (event.type === 'step') {
				waiting.push(event.step);
				frame ||= requestAnimationFrame(flush);
			} else if (event.type === 'end') {
				void api.get<{ run: StoredRun; steps: StoredStep[] }>(`/runs/${this.run.id}`).then(({ run, steps }) => {
					this.run = run;
					this.steps = steps;
					onEnd();
				});
			}
		});
	}
	leave(): void {
		this.#following?.stop();
	}
}
