import type { StoredRun } from '$lib/wire.ts';
import { api, ApiError } from '../common/api.ts';
import { storeAll } from '../common/saving.svelte.ts';

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
