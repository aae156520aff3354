import type { StoredRun } from '$lib/wire.ts';
import { api, ApiError, messageOf } from '../common/api.ts';
import { storeAll } from '../common/saving.svelte.ts';
import { toasts } from '../common/toast.svelte.ts';
import { placeOfValue } from '../values/place.ts';

export interface RunOrder {
	targets?: string[];
	only?: string[];
	environment?: string;
	seed?: number;
	rows?: { data?: string; take?: string; row?: number };
}

/** What would be done in a guarded environment, waiting for somebody's word. */
export const guard = $state<{ asked: { message: string; calls: string[]; answer(go: boolean): void } | undefined }>({
	asked: undefined
});

/** Says why a run was refused: with the first of its problems, and the way to a secret that has no value. */
export function tellRefused(project: string, error: unknown): void {
	const problems = error instanceof ApiError ? error.problems : [];
	const [first, ...more] = problems;
	const detail = first ? `: ${first.message}${more.length > 0 ? ` (and ${more.length} more)` : ''}` : '';
	const wanted = problems.find(({ missing }) => missing?.root === 'secret')?.missing;
	toasts.lead(messageOf(error) + detail, wanted && { label: 'set it', href: placeOfValue(project, wanted) });
}

/**
 * Starts a run, of what is stored by then; where the environment is guarded it asks first.
 * @returns undefined when somebody said no
 * @throws ApiError; Error in words when what was changed could not be stored
 */
export async function startRun(project: string, order: RunOrder): Promise<StoredRun | undefined> {
	const path = `/projects/${project}/runs`;
	await storeAll(project);
	try {
		return await api.post<StoredRun>(path, order);
	} catch (error) {
		if (!(error instanceof ApiError) || error.code !== 'run.guarded') throw error;
		const { message, problems } = error;
		const go = await new Promise<boolean>((answer) => {
			guard.asked = { message, calls: problems.map((one) => one.message), answer };
		});
		guard.asked = undefined;
		return go ? await api.post<StoredRun>(path, { ...order, allowGuarded: true }) : undefined;
	}
}
