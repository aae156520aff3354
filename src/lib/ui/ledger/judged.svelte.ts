import type { CheckResult } from '#core/checks/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { api } from '../common/api.ts';
import type { Ledger } from './ledger.svelte.ts';
import type { StepView } from './view.ts';

export interface Judged {
	checks: CheckResult[];
	kept: JsonObject;
	/** The operation of an OpenAPI document that the call is one of. */
	operation?: string;
}

const AFTER_MS = 180;

/** Tries the checks of a step on the answer that is there, as they are written; to be called while a component is made. */
export function useJudged(ledger: () => Ledger, view: () => StepView): { readonly found: Judged | undefined } {
	let found: Judged | undefined = $state.raw();
	$effect(() => {
		const [here, step] = [ledger(), view()];
		void here.round;
		const exchange = here.sending.resultOf(step)?.exchanges.at(-1);
		found = undefined;
		if (!exchange?.reply || step.step.kind !== 'send') return;
		const order = {
			collection: here.name,
			scenario: step.scenarioId,
			step: step.raw,
			environment: here.project.environment,
			row: here.rowOf(step.scenarioId) ?? 1,
			exchange
		};
		let current = true;
		const timer = setTimeout(() => {
			api
				.post<Judged>(`/projects/${here.project.name}/judge`, order)
				.then((judged) => current && (found = judged))
				// the file says what is wrong with a check that cannot be read
				.catch(() => {});
		}, AFTER_MS);
		return () => {
			current = false;
			clearTimeout(timer);
		};
	});
	return {
		get found() {
			return found;
		}
	};
}
