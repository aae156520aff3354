import type { StoredAnswer } from '$lib/wire.ts';
import { api } from '../common/api.ts';

/** Answers to a step that came before a moment, the newest first. @throws ApiError */
export async function earlierAnswers(
	project: string,
	scenario: string,
	step: string,
	before: number
): Promise<StoredAnswer[]> {
	const query = new URLSearchParams({ scenario, step });
	const found = await api.get<StoredAnswer[]>(`/projects/${project}/answers?${query}`);
	return found.filter(({ startedAt }) => startedAt < before);
}
