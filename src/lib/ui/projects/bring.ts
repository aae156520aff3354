import { isProjectFile } from '#core/documents/kinds.ts';
import { projectName } from '#core/begin/index.ts';

/** A file that was chosen or dropped, by its path. */
export interface Brought {
	path: string;
	bytes: Uint8Array;
}

/** The most that is brought in at once, in bytes; the server takes no more. */
const MOST_BYTES = 70_000_000;

const read = async (file: File, path: string): Promise<Brought> => ({
	path,
	bytes: new Uint8Array(await file.arrayBuffer())
});
const isLeftOut = (path: string): boolean => /(^|\/)(\.git|node_modules)\//.test(path);

function assertSize(files: { size: number }[]): void {
	const size = files.reduce((sum, one) => sum + one.size, 0);
	if (size > MOST_BYTES)
		throw new Error(
			`${Math.round(size / 1e6)} MB are too much for the browser, ${MOST_BYTES / 1e6} MB may be brought in: heron import FOLDER takes more`
		);
}

/** What was chosen in a file field. */
export async function readChosen(list: FileList | null): Promise<Brought[]> {
	const files = [...(list ?? [])].filter((file) => !isLeftOut(file.webkitRelativePath || file.name));
	assertSize(files);
	return Promise.all(files.map((file) => read(file, file.webkitRelativePath || file.name)));
}

/** What was dropped: files, and folders with all that is in them. */
export async function readDropped(transfer: DataTransfer): Promise<Brought[]> {
	// the entries are gone as soon as anything is waited for
	const entries = [...transfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
	const found: { file: File; path: string; size: number }[] = [];
	const walk = async (entry: FileSystemEntry, path: string): Promise<void> => {
		if (isLeftOut(`${path}/`)) return;
		if (entry.isFile) {
			const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
			found.push({ file, path, size: file.size });
			return;
		}
		const reader = (entry as FileSystemDirectoryEntry).createReader();
		// a folder is told in parts
		for (;;) {
			const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
			if (part.length === 0) return;
			for (const one of part) await walk(one, `${path}/${one.name}`);
		}
	};
	for (const entry of entries) await walk(entry, entry.name);
	assertSize(found);
	return Promise.all(found.map(({ file, path }) => read(file, path)));
}

/** What a ZIP holds; other files as they are. */
export async function unpacked(files: Brought[]): Promise<Brought[]> {
	const [only] = files;
	if (files.length !== 1 || !only || ![0x50, 0x4b, 3, 4].every((byte, at) => only.bytes[at] === byte)) return files;
	const { unzip } = await import('fflate');
	let size = 0;
	const inside = await new Promise<Record<string, Uint8Array>>((resolve, reject) =>
		unzip(
			only.bytes,
			{
				filter: ({ name, originalSize }) => {
					size += originalSize;
					return size <= MOST_BYTES && !name.endsWith('/') && !isLeftOut(name);
				}
			},
			(error, data) => (error ? reject(new Error(`${only.path} cannot be unpacked: ${error.message}`)) : resolve(data))
		)
	);
	assertSize([{ size }]);
	return Object.entries(inside).map(([path, bytes]) => ({ path, bytes }));
}

/** The project among files: those below the folder that holds the nearest heron.yaml. */
export function projectAmong(files: Brought[]): { name: string; files: Brought[] } | undefined {
	const [main] = files
		.filter(({ path }) => /(^|\/)heron\.yaml$/.test(path))
		.sort((a, b) => a.path.split('/').length - b.path.split('/').length);
	if (!main) return undefined;
	const folder = main.path.replace(/heron\.yaml$/, '');
	return {
		name: projectName(folder.split('/').at(-2) ?? ''),
		files: files
			.filter(({ path }) => path.startsWith(folder))
			.map(({ path, bytes }) => ({ path: path.slice(folder.length), bytes }))
			.filter(({ path }) => isProjectFile(path))
	};
}

/** Bytes as base64. */
export function base64Of(bytes: Uint8Array): string {
	let text = '';
	for (let at = 0; at < bytes.length; at += 32_768) text += String.fromCharCode(...bytes.subarray(at, at + 32_768));
	return btoa(text);
}
