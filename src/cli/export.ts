import { HeronError } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { isProjectFile } from '#core/project/index.ts';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, resolve, sep } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { callServer } from './remote.ts';

interface Plan {
	path: string;
	full: string;
	bytes: Buffer;
}

interface Exported {
	files: { path: string; base64: string }[];
	/** Left out by a server of an earlier version. */
	revision?: number;
	pinned?: string;
}

/** The files of a server's project, and where they go below a folder. @throws HeronError usage.* */
async function plansOf(
	flags: Flags,
	name: string,
	dir: string,
	of: readonly string[] = []
): Promise<{ plans: Plan[]; exported: Exported }> {
	const revision = one(flags, 'revision');
	const query = new URLSearchParams([
		...of.map((target) => ['of', target] as [string, string]),
		...(revision === undefined ? [] : [['revision', revision] as [string, string]])
	]);
	const exported = await callServer<Exported>(
		flags,
		`/projects/${encodeURIComponent(name)}/export${query.size > 0 ? `?${query.toString()}` : ''}`
	);
	const { files } = exported;
	const plans = files.map(({ path, base64 }) => ({
		path,
		full: join(dir, path),
		bytes: Buffer.from(base64, 'base64')
	}));
	const outside = plans.find(({ path, full }) => !isProjectFile(path) || !full.startsWith(dir + sep));
	if (outside) throw new HeronError('export.outside', { path: outside.path });
	return { plans, exported };
}

function write(plans: readonly Plan[]): void {
	for (const { full, bytes } of plans) {
		mkdirSync(dirname(full), { recursive: true });
		writeFileSync(full, bytes);
	}
}

/** `heron export PROJECT FOLDER`: writes the project's files, byte for byte; other files in the folder are left alone. */
export async function exportProject(io: Io, [name, folder]: string[], flags: Flags): Promise<number> {
	if (!name || !folder) throw new HeronError('usage.export');
	const { plans } = await plansOf(flags, name, resolve(folder));
	const changed = plans.filter(({ full, bytes }) => existsSync(full) && !readFileSync(full).equals(bytes));
	if (changed.length > 0 && flags.replace !== true) {
		throw new HeronError('export.changes', {
			count: counted(changed.length, 'file'),
			folder,
			files: `${changed[0]!.path}${changed.length > 1 ? ' …' : ''}`
		});
	}
	write(plans);
	io.out(`${counted(plans.length, 'file')} written to ${folder}\n`);
	return 0;
}

/** A server's project in a folder of its own. */
export interface Borrowed {
	dir: string;
	/** Its revision, and the name or number by which it was asked for. */
	revision: { revision?: number; pinned?: string };
	close(): Promise<void>;
}

/**
 * A server's project in a folder of its own for as long as it is needed.
 * @param of what is run of it: a suite may name the revision
 * @throws HeronError usage.*, request.notFound
 */
export async function borrowProject(flags: Flags, name: string, of: readonly string[]): Promise<Borrowed> {
	// names of projects are those of folders, too
	if (!/^[\w.-]+$/.test(name) || /^\.+$/.test(name))
		throw new HeronError('usage.option', { option: 'name', wanted: 'the name of a project', given: name });
	const around = mkdtempSync(join(tmpdir(), 'heron-project-'));
	const dir = join(around, name);
	const close = () => Promise.resolve(rmSync(around, { recursive: true, force: true }));
	try {
		const { plans, exported } = await plansOf(flags, name, dir, of);
		write(plans);
		const { revision, pinned } = exported;
		const provenance = {
			...(revision === undefined ? {} : { revision }),
			...(pinned === undefined ? {} : { pinned })
		};
		return { dir, revision: provenance, close };
	} catch (error) {
		await close();
		throw error;
	}
}
