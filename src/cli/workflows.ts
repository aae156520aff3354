import { WORKFLOWS, workflowFiles } from '#core/arazzo/index.ts';
import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { mkdirSync, writeFileSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { assertValid, openProject } from './project.ts';

/** `heron workflows [NAME…]`: scenarios as an Arazzo document. */
export async function workflows(io: Io, names: string[], flags: Flags): Promise<number> {
	const folder = openProject(flags);
	assertValid(folder);
	const { workspace, documents, readFile } = folder;
	const collections = [...workspace.collections.values()];
	const known = collections.flatMap(({ name, scenarios }) => [name, ...scenarios.map(({ id }) => `${name}/${id}`)]);
	for (const name of names)
		if (!known.includes(name)) throw new HeronError('workflow.target', { name, nearest: didYouMean(name, known) });
	const targets = names.length > 0 ? names : [...workspace.collections.keys()];
	const title = workspace.project.title || basename(folder.dir);
	const { files, notes } = workflowFiles(workspace, targets, (path) => documents.get(path)?.value, title, readFile);
	for (const note of notes) io.err(`note: ${note}\n`);
	const output = one(flags, 'output');
	if (output === undefined) {
		io.out(Buffer.from(files.find(({ path }) => path === WORKFLOWS)!.bytes).toString('utf8'));
		return 0;
	}
	const dir = resolve(output);
	mkdirSync(dir, { recursive: true });
	for (const { path, bytes } of files) {
		writeFileSync(join(dir, path), bytes);
		io.out(`${path}\n`);
	}
	return 0;
}
