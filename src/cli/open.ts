import { HeronError } from '#core/errors.ts';
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { callServer } from './remote.ts';
import { addressFile, startServer } from './serve.ts';

/** Where results and secrets of folders are kept: with the user, for the folder holds files alone. */
const userData = (env: Io['env']): string =>
	join(env.XDG_DATA_HOME || env.LOCALAPPDATA || join(homedir(), '.local', 'share'), 'loyal-heron');

/** `heron open [DIR]`: the application on a folder; one that runs already is used. */
export async function openHere(io: Io, names: string[], flags: Flags): Promise<number> {
	const [given = '.', ...more] = names;
	if (more.length > 0) throw new HeronError('usage.open');
	const dir = resolve(given);
	if (!existsSync(join(dir, 'heron.yaml')))
		throw new HeronError('open.none', { folder: given, command: `heron init${given === '.' ? '' : ` ${given}`}` });
	const data = one(flags, 'data') ?? io.env.HERON_DATA ?? userData(io.env);
	mkdirSync(data, { recursive: true });
	const running = await runningAt(data);
	const { url, ended } = running ? { url: running, ended: undefined } : await startServer(io, { ...flags, data });
	const { name } = await callServer<{ name: string }>({ server: url }, '/folders', { dir });
	const page = `${url}/${name}/collections`;
	io.out(`${name} is at ${page}\n`);
	if (flags['no-browser'] !== true) browse(page);
	await ended;
	return 0;
}

/** The address of a server that works with these data; undefined when none does. */
async function runningAt(data: string): Promise<string | undefined> {
	if (!existsSync(join(data, 'server.lock')) || !existsSync(addressFile(data))) return undefined;
	const url = readFileSync(addressFile(data), 'utf8').trim();
	try {
		const reply = await fetch(`${url}/api/health`, { signal: AbortSignal.timeout(3000) });
		return reply.ok ? url : undefined;
	} catch {
		return undefined;
	}
}

/** Opens a page in the user's browser; where there is none, the address was printed. */
function browse(page: string): void {
	const [command, ...args] =
		process.platform === 'darwin'
			? ['open', page]
			: process.platform === 'win32'
				? ['cmd', '/c', 'start', '', page]
				: ['xdg-open', page];
	const child = spawn(command!, args, { stdio: 'ignore', detached: true });
	child.on('error', () => {});
	child.unref();
}
