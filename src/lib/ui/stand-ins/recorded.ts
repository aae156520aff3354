import type { RecordedAnswers } from '#core/stand-in/index.ts';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { api } from '../common/api.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { withFreeIds } from './answers.ts';

export interface RecordedFound extends RecordedAnswers {
	origin: string;
	origins: { origin: string; calls: number }[];
}
/** An HTTP Archive, a run, or one step of a run. */
export type Recording = { har: string } | { run: string } | { run: string; scenario: string; step: string };

/** Answers of what was recorded. @throws ApiError */
export function recordedAnswers(
	{ name, environment }: ProjectState,
	recording: Recording,
	{ base, origin = '' }: { base: string; origin?: string }
): Promise<RecordedFound> {
	const query = new URLSearchParams({ environment, base, origin, ...('har' in recording ? {} : recording) });
	return api.postText(
		`/projects/${name}/stand-ins/recorded?${query.toString()}`,
		'har' in recording ? recording.har : ''
	);
}

/**
 * Puts what a step was answered into a stand-in, as its first answer; makes the stand-in when it is not there.
 * @returns what takes it back
 * @throws ApiError, Error when nothing can be made of it
 */
export async function answerAsTheyDid(
	project: ProjectState,
	recording: Recording,
	{ standIn, fresh }: { standIn: string; fresh: boolean }
): Promise<{ undo: () => Promise<void> }> {
	const url = `/projects/${project.name}/files/stand-ins/${standIn}.yaml`;
	const { value, revision } = fresh
		? { value: { heron: 1, answers: [] } as Json, revision: 0 }
		: await api.get<{ value: Json; revision: number }>(url);
	const before = isObject(value) ? (value as JsonObject) : { heron: 1 };
	const answers = Array.isArray(before.answers) ? (before.answers as Json[]) : [];
	const found = await recordedAnswers(project, recording, { base: String(before.base ?? '') });
	if (found.answers.length === 0)
		throw new Error(`no answer can be made of it: ${found.notes.join(', ') || 'nothing came'}`);
	const base = found.base && !before.base && answers.length === 0 ? { base: found.base } : {};
	const written = await api.put<{ revision: number }>(url, {
		value: { ...before, ...base, answers: [...withFreeIds(found.answers, before), ...answers] },
		revision
	});
	await project.reload();
	return {
		async undo() {
			if (fresh) await api.remove(`${url}?revision=${written.revision}`);
			else await api.put(url, { value: before, revision: written.revision });
			await project.reload();
		}
	};
}
