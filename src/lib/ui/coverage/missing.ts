import type { MissingStep } from '#core/coverage/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { api, messageOf } from '../common/api.ts';
import { changeScenarios } from '../common/collection.ts';
import { freeName } from '../common/edit.ts';
import { fileName } from '../common/files.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

/** The collection that has most of these steps; empty where there are none. */
function homeOf(steps: readonly string[]): string {
	const counts = new Map<string, number>();
	for (const step of steps) {
		const name = step.split('/')[0]!;
		counts.set(name, (counts.get(name) ?? 0) + 1);
	}
	return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? '';
}

/**
 * Makes the steps that would touch points, each in a scenario of its own, and says where they are.
 * @param beside steps that call the same definition, among which they go
 */
export async function makeMissing(
	project: ProjectState,
	beside: readonly string[],
	wanted: { file: string; operation: string; points: string[] }
): Promise<void> {
	try {
		const found = await api.post<MissingStep[]>(`/projects/${project.name}/coverage/step`, wanted);
		const through = found[0]?.connection ?? '';
		const collections = await project.allCollections();
		const name =
			homeOf(beside) ||
			(collections.find((one) => through !== '' && one.connection === through) ?? collections[0])?.name;
		if (!name) return void toasts.show('There is no collection yet that it could stand in: make one first.', 'trouble');
		await changeScenarios(project, name, ({ whole, scenarios, ids }) => {
			const taken = [...ids];
			const made = found.map(({ step, title, connection: own }): JsonObject => {
				const id = freeName(fileName(title.toLowerCase()).slice(0, 60) || 'missing', taken);
				taken.push(id);
				const connection: JsonObject = own && whole.connection !== own ? { connection: own } : {};
				return { id, title, ...connection, steps: [{ id: 'call', ...step }] };
			});
			const notes = [...new Set(found.flatMap((one) => one.notes))];
			const more = notes.length > 0 ? `; ${notes.join('; ')}` : '';
			const message =
				made.length === 1
					? `The scenario ${String(made[0]!.id)} is in ${name}${more}.`
					: `${made.length} scenarios are in ${name}${more}.`;
			return { scenarios: [...scenarios, ...made], message };
		});
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}
