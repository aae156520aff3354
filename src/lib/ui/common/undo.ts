import type { WrittenFile } from '$lib/wire.ts';
import { api, messageOf } from './api.ts';
import { toasts } from './toast.svelte.ts';

/** Says what was done, and offers to take all that was written back in one step. @param then is done once that has happened */
export function offerUndo(
	project: { name: string; reload(): Promise<void> },
	written: WrittenFile[],
	words: string,
	then: () => unknown = () => {}
): void {
	const takeBack = async () => {
		try {
			await api.post(`/projects/${project.name}/files`, { back: written });
			await project.reload();
			await then();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	};
	toasts.show(words, 'note', written.length > 0 ? { label: 'undo', run: () => void takeBack() } : undefined);
}
