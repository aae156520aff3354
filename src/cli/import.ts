import { HeronError, problemLine, type Problem } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { LOCAL_FILE } from '#core/model/local.ts';
import { readFolder } from '#server/engine/index.ts';
import { existsSync, statSync } from 'node:fs';
import { basename, resolve } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { callServer } from './remote.ts';

/** `heron import FOLDER`: a project folder into a server; what is wrong in it is said, and kept. */
export async function importFolder(io: Io, [folder]: string[], flags: Flags): Promise<number> {
	if (!folder) throw new HeronError('usage', { detail: 'a folder is wanted: heron import path/to/project' });
	const dir = resolve(folder);
	if (!existsSync(dir) || !statSync(dir).isDirectory())
		throw new HeronError('usage', { detail: `${folder} is not a folder` });
	const project = readFolder(dir);
	const name =
		one(flags, 'name') ??
		basename(dir)
			.toLowerCase()
			.replace(/[^a-z0-9-]+/g, '-');
	// values of this machine stay on it
	const files = project.paths
		.filter((path) => path !== LOCAL_FILE)
		.map((path) => ({
			path,
			base64: Buffer.from(project.readFile(path) ?? []).toString('base64')
		}));
	const done = await callServer<{ problems: Problem[] }>(flags, '/projects', {
		name,
		files,
		replace: flags.replace === true
	});
	for (const problem of done.problems) io.err(`${problemLine(problem)}\n`);
	io.out(
		`${name}: ${counted(files.length, 'file')} imported${done.problems.length ? `, ${counted(done.problems.length, 'problem')}` : ''}\n`
	);
	return 0;
}
