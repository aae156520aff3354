import { workflowsOf } from '#core/arazzo/index.ts';
import { HeronError } from '#core/errors.ts';
import { nearest } from '#core/messages.ts';
import { mkdirSync, writeFileSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { stringify } from 'yaml';
import { one, type Flags, type Io } from './command.ts';
import { demandValid, openProject } from './project.ts';

const FILE = 'workflows.arazzo.yaml';

/** `heron workflows [COLLECTION…]`: scenarios as an Arazzo document. */
export async function workflows(io: Io, names: string[], flags: Flags): Promise<number> {
	const folder = openProject(flags);
	demandValid(folder);
	const { workspace, documents, readFile } = folder;
	const known = [...workspace.collections.keys()];
	for (const name of names)
		if (!known.includes(name))
			throw new HeronError('usage', { detail: `there is no collection "${name}"${nearest(name, known)}` });
	const title = workspace.project.title || basename(folder.dir);
	const made = workflowsOf(workspace, names.length > 0 ? names : known, (path) => documents.get(path)?.value, title);
	if ((made.document.workflows as unknown[]).length === 0)
		throw new HeronError('usage', { detail: 'there is no scenario that could be a workflow' });
	for (const note of made.notes) io.err(`note: ${note}\n`);
	const text = stringify(made.document, { lineWidth: 0 });
	const output = one(flags, 'output');
	if (output === undefined) {
		io.out(text);
		return 0;
	}
	const dir = resolve(output);
	mkdirSync(dir, { recursive: true });
	const files: [string, string | Uint8Array][] = [
		[FILE, text],
		...made.files.map((path): [string, Uint8Array] => [basename(path), readFile(path) ?? new Uint8Array()]),
		...(made.calls ? [[made.calls.name, `${JSON.stringify(made.calls.document, null, 2)}\n`] as [string, string]] : [])
	];
	for (const [name, data] of files) {
		writeFileSync(join(dir, name), data);
		io.out(`${name}\n`);
	}
	return 0;
}
