import { api } from '../common/api.ts';
import { saveZip } from '../common/zip.ts';

/** Saves all files of a project as a ZIP; values of this machine and secrets stay. */
export async function takeOut(project: string): Promise<void> {
	const { files } = await api.get<{ files: { path: string; base64: string }[] }>(`/projects/${project}/export`);
	await saveZip(
		`${project}.zip`,
		files.map(({ path, base64 }) => ({ path: `${project}/${path}`, base64 }))
	);
}
