import type { Problem } from '#core/errors.ts';
import { HeronError, problemLine } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import { editYaml } from '#core/model/edit.ts';
import type { Json } from '#core/model/json.ts';
import { blockingProblems, type RunSelection } from '#core/run/index.ts';
import { readFolder, type ProjectFolder } from '#server/engine/index.ts';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import type { Flags, Io } from './command.ts';
import type { Borrowed } from './export.ts';
import { one } from './command.ts';

/** Opens the project that the options name. */
export const openProject = (flags: Flags): ProjectFolder => readFolder(resolve(one(flags, 'project') ?? '.'));

/** A name for a document: --name, or the one that suggests itself. @throws HeronError usage.* */
export function nameGiven(flags: Flags, usual: string): string {
	const name = one(flags, 'name') ?? usual;
	if (!/^[a-z\d][a-z\d-]*$/.test(name)) throw new HeronError('name.document', { name });
	return name;
}

export function writeInto({ dir }: ProjectFolder, path: string, data: string | Uint8Array): void {
	const full = join(dir, path);
	mkdirSync(dirname(full), { recursive: true });
	writeFileSync(full, data);
}

/** Writes documents, with what their texts have besides values: comments, order. */
export function writeDocuments(folder: ProjectFolder, writes: readonly { path: string; value: Json }[]): void {
	// all of them, or none
	const texts = writes.map(({ path, value }): [string, string] => [
		path,
		editYaml(Buffer.from(folder.readFile(path) ?? []).toString('utf8'), value)
	]);
	for (const [path, text] of texts) writeInto(folder, path, text);
}

export const listProblems = (io: Io, problems: Problem[], word = ''): void => {
	for (const problem of problems)
		io.err(`${word}${problemLine(problem)}${problem.fix ? ` (${problem.fix.label})` : ''}\n`);
};

/** @throws HeronError project.invalid when files are wrong */
export function assertValid(folder: ProjectFolder): void {
	const { problems } = folder.workspace;
	if (problems.length > 0)
		throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
}

/**
 * Refuses what depends on files that are wrong; what is wrong elsewhere is counted on standard error.
 * @throws HeronError project.invalid
 */
export function assertSound(io: Io, { workspace }: ProjectFolder, selection: RunSelection): void {
	const problems = blockingProblems(workspace, selection);
	if (problems.length > 0)
		throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
	const rest = workspace.problems.length;
	if (rest > 0) io.err(`${counted(rest, 'problem')} in files that this does not need: heron check tells\n`);
}

/** What is looked up in a project: what is not there may be in a file that cannot be read. @throws HeronError */
export function lookedUp<T>(folder: ProjectFolder, look: () => T): T {
	try {
		return look();
	} catch (error) {
		if (error instanceof HeronError) assertValid(folder);
		throw error;
	}
}

/** The environment of a name; none is one too. @throws HeronError environment.none */
export function environmentOf({ workspace }: ProjectFolder, name: string): string {
	const known = [...workspace.environments.keys()];
	if (name && !known.includes(name)) {
		throw new HeronError('environment.none', { name, nearest: didYouMean(name, known) });
	}
	return name;
}

/**
 * The options with the folder of a server's project in place of the server, where one is named.
 * @param names what is run of it
 * @param begun has what is to be closed at the end
 * @throws HeronError usage.*
 */
export async function withProject(
	io: Io,
	names: string[],
	flags: Flags,
	begun: { close(): Promise<void> }[]
): Promise<{ flags: Flags; revision: Borrowed['revision'] }> {
	const [server, name, asked] = [one(flags, 'server'), one(flags, 'name'), one(flags, 'revision')];
	if (server === undefined && name === undefined) {
		if (asked !== undefined) throw new HeronError('usage.revision');
		return { flags, revision: {} };
	}
	if (name === undefined) throw new HeronError('usage.serverName');
	if (one(flags, 'project') !== undefined) throw new HeronError('usage.projectOrName');
	const found = await (await import('./export.ts')).borrowProject(flags, name, names);
	begun.push(found);
	const { pinned, revision } = found.revision;
	if (asked !== undefined && revision === undefined) throw new HeronError('remote.noRevision');
	const at = server ?? 'http://127.0.0.1:4680';
	const number = revision ? ` (revision ${revision})` : '';
	if (flags.quiet !== true)
		io.err(
			pinned === undefined || pinned === String(revision)
				? `the project ${name} as it is at ${at}${pinned === undefined ? ' now' : ''}${number}\n`
				: `the project ${name} as it is at ${at} under ${pinned}${number}\n`
		);
	return { flags: { ...flags, project: found.dir }, revision: found.revision };
}
