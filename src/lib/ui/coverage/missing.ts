import type { MissingStep } from '#core/coverage/missing.ts';
import type { JsonObject } from '#core/model/json.ts';
import { api, messageOf } from '../common/api.ts';
import { changeScenarios } from '../common/collection.ts';
import { freeName } from '../common/edit.ts';
import { fileName } from '../common/files.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { ProjectState } from '../frame/project.svelte.ts';

/** The collection that has most of these steps; empty where there are none. */
function homeOf(steps: readonly string[]): string {
	const counts: Record<string, number> = {};
	for (const step of steps) {
		const name = step.split('/')[0]!;
		counts[name] = (counts[name] ?? 0) + 1;
	}
	return Object.entries(counts).sort((a, b) => b[1] - a[1])[0]?.[0] ?? '';
}

/**
 * Makes the step that would touch a point, in a scenario of its own, and says where it is.
 * @param beside steps that call the same definition, among which it goes
 */
export async function makeMissing(
	project: ProjectState,
	beside: readonly string[],
	point: { file: string; operation: string; point: string }
): Promise<void> {
	try {
		const {
			step,
			title,
			connection: through,
			notes
		} = await api.post<MissingStep>(`/projects/${project.name}/coverage/step`, point);
		const { collections } = project.overview;
		const name =
			homeOf(beside) ||
			(collections.find((one) => through !== '' && one.connection === through) ?? collections[0])?.name;
		if (!name) return void toasts.show('There is no collection yet that it could stand in: make one first.', 'trouble');
		await changeScenarios(project, name, ({ whole, scenarios, ids }) => {
			const id = freeName(fileName(title.toLowerCase()).slice(0, 60) || 'missing', ids);
			const connection: JsonObject = through && whole.connection !== through ? { connection: through } : {};
			const scenario: JsonObject = { id, title, ...connection, steps: [{ id: 'call', ...step }] };
			const more = notes.length > 0 ? `; ${notes.join('; ')}` : '';
			return { scenarios: [...scenarios, scenario], told: `The scenario ${id} is in ${name}${more}.` };
		});
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}
