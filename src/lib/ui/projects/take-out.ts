import { api } from '../common/api.ts';

/** Saves all files of a project as a ZIP; values of this machine and secrets stay. */
export async function takeOut(project: string): Promise<void> {
	const [{ files }, { zip }] = await Promise.all([
		api.get<{ files: { path: string; base64: string }[] }>(`/projects/${project}/export`),
		import('fflate')
	]);
	const inside = Object.fromEntries(
		files.map(({ path, base64 }) => [
			`${project}/${path}`,
			Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))
		])
	);
	const bytes = await new Promise<Uint8Array<ArrayBuffer>>((resolve, reject) =>
		zip(inside, (error, data) => (error ? reject(new Error(error.message)) : resolve(data as Uint8Array<ArrayBuffer>)))
	);
	const link = document.createElement('a');
	link.href = URL.createObjectURL(new Blob([bytes], { type: 'application/zip' }));
	link.download = `${project}.zip`;
	link.click();
	URL.revokeObjectURL(link.href);
}
