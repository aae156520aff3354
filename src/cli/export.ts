import { HeronError } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { isProjectFile } from '#core/project/index.ts';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve, sep } from 'node:path';
import type { Flags, Io } from './command.ts';
import { callServer } from './remote.ts';

/** `heron export PROJECT FOLDER`: writes the project's files, byte for byte; other files in the folder are left alone. */
export async function exportProject(io: Io, [name, folder]: string[], flags: Flags): Promise<number> {
	if (!name || !folder)
		throw new HeronError('usage', {
			detail: 'a project and a folder are wanted: heron export reedmere path/to/folder'
		});
	const dir = resolve(folder);
	const { files } = await callServer<{ files: { path: string; base64: string }[] }>(
		flags,
		`/projects/${encodeURIComponent(name)}/export`
	);
	const plans = files.map(({ path, base64 }) => ({
		path,
		full: join(dir, path),
		bytes: Buffer.from(base64, 'base64')
	}));
	const outside = plans.find(({ path, full }) => !isProjectFile(path) || !full.startsWith(dir + sep));
	if (outside)
		throw new HeronError('usage', {
			detail: `the server sent a file that does not belong in a project: ${outside.path}`
		});
	const changed = plans.filter(({ full, bytes }) => existsSync(full) && !readFileSync(full).equals(bytes));
	if (changed.length > 0 && flags.replace !== true) {
		throw new HeronError('usage', {
			detail: `${counted(changed.length, 'file')} in ${folder} would change (${changed[0]!.path}${changed.length > 1 ? ' …' : ''}): --replace writes over`
		});
	}
	for (const { full, bytes } of plans) {
		mkdirSync(dirname(full), { recursive: true });
		writeFileSync(full, bytes);
	}
	io.out(`${counted(plans.length, 'file')} written to ${folder}\n`);
	return 0;
}
