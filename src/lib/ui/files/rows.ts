import { textPage } from '../common/api.ts';
import type { FileFacts } from '$lib/wire.ts';

/** A line of the list: a folder, or a file in it. */
type FileRow = { key: string; folder: string; count: number } | { key: string; file: FileFacts; text: string };

/** Folders whose documents have pages. */
const WITH_PAGES = ['connections', 'credentials', 'collections', 'stand-ins'];

/** The page that shows a file best: its own, or that of its text. */
export function pageOf(project: string, path: string): string {
	const [folder = '', name = ''] = path.split('/');
	if (folder === 'datasets') return `/${project}/datasets/${encodeURIComponent(path.slice(folder.length + 1))}`;
	if (WITH_PAGES.includes(folder) && path.endsWith('.yaml')) return `/${project}/${folder}/${name.slice(0, -5)}`;
	return textPage(project, path);
}

/** Files by their folders, those of the project itself first; of those whose path says all of the words. */
export function rowsOf(files: readonly FileFacts[], words: string): FileRow[] {
	const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
	const folders = new Map<string, FileFacts[]>([['', []]]);
	for (const file of files) {
		if (!wanted.every((word) => file.path.toLowerCase().includes(word))) continue;
		const at = file.path.indexOf('/');
		const folder = at < 0 ? '' : file.path.slice(0, at);
		const own = folders.get(folder) ?? [];
		own.push(file);
		folders.set(folder, own);
	}
	return [...folders]
		.filter(([, own]) => own.length > 0)
		.flatMap(([folder, own]): FileRow[] => [
			{ key: `folder ${folder}`, folder, count: own.length },
			...own.map((file) => ({
				key: file.path,
				file,
				text: folder ? file.path.slice(folder.length + 1) : file.path
			}))
		]);
}
