import { counted } from '#core/messages.ts';
import { api, messageOf } from '../common/api.ts';
import { toasts } from '../common/toast.svelte.ts';
import { saveZip } from '../common/zip.ts';

/** Saves scenarios as an Arazzo document with its definitions, and says what has no equal there. */
export async function saveWorkflows(project: string, targets: readonly string[]): Promise<void> {
	try {
		const { files, notes } = await api.post<{ files: { path: string; base64: string }[]; notes: string[] }>(
			`/projects/${project}/workflows`,
			{ targets }
		);
		await saveZip(`${project}-workflows.zip`, files);
		if (notes.length > 0)
			toasts.show(
				`${counted(notes.length, 'thing')} of them ${notes.length === 1 ? 'has' : 'have'} no equal there: ${notes.slice(0, 3).join('; ')}${notes.length > 3 ? ' …' : ''}.`
			);
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}
