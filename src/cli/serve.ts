import { HeronError, textOf } from '#core/errors.ts';
import { importAt } from '#server/engine/import-at.ts';
import { once } from 'node:events';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { createRequire } from 'node:module';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { one, type Flags, type Io } from './command.ts';

const free = (port: number, host: string): Promise<boolean> =>
	new Promise((resolve) => {
		const probe = createServer();
		probe.once('error', () => resolve(false));
		probe.listen(port, host, () => probe.close(() => resolve(true)));
	});

/** Where a server that has a folder of data says how it is reached. */
export const addressFile = (data: string): string => join(data, 'server.address');

/** `heron serve`: runs until it is interrupted. */
export async function serve(io: Io, _: string[], flags: Flags): Promise<number> {
	const { url, ended } = await startServer(io, flags);
	io.out(`Begin a project there, or bring one in: heron import FOLDER --server ${url}\n`);
	await ended;
	return 0;
}

/** @throws HeronError store.missing where the database's engine could not be installed: it is optional */
function assertEngine(): void {
	try {
		createRequire(import.meta.url)('sqlite3');
	} catch (cause) {
		throw new HeronError('store.missing', { detail: textOf(cause).split('\n')[0]! }, { cause });
	}
}

/** Starts the application. A port that was asked for must be free; else the next free one is taken. */
export async function startServer(io: Io, flags: Flags): Promise<{ url: string; ended: Promise<void> }> {
	assertEngine();
	const asked = one(flags, 'port');
	const host = one(flags, 'host') ?? '127.0.0.1';
	if (host !== '127.0.0.1' && host !== 'localhost' && host !== '::1' && !io.env.HERON_TOKEN)
		throw new HeronError('serve.token', { host });
	let port = Number(asked ?? 4680);
	if (!Number.isInteger(port) || port < 1 || port > 65_535)
		throw new HeronError('usage.option', { option: 'port', wanted: 'a port', given: asked ?? '' });
	if (!(await free(port, host))) {
		if (asked !== undefined) throw new HeronError('serve.port', { port, host });
		const taken = port;
		while (port < taken + 100 && !(await free(port, host))) port++;
		io.err(`port ${taken} is taken, ${port} is used\n`);
	}
	// this file is bundled into a folder below the package's own
	const entry = ['../build/index.js', '../../build/index.js']
		.map((path) => fileURLToPath(new URL(path, import.meta.url)))
		.find(existsSync);
	if (!entry) throw new HeronError('serve.build');
	Object.assign(process.env, {
		HOST: host,
		PORT: String(port),
		BODY_SIZE_LIMIT: process.env.BODY_SIZE_LIMIT ?? '100M',
		SHUTDOWN_TIMEOUT: process.env.SHUTDOWN_TIMEOUT ?? '3',
		// Node's own five seconds end a kept connection while a client that thinks as long sends its next request on it
		KEEP_ALIVE_TIMEOUT: process.env.KEEP_ALIVE_TIMEOUT ?? '75'
	});
	const data = one(flags, 'data') ?? (process.env.HERON_DATA || 'data');
	mkdirSync(data, { recursive: true });
	process.env.HERON_DATA = data;
	const { server } = (await importAt(entry)) as { server: { server: Server } };
	// it is loaded before it listens
	if (!server.server.listening) await once(server.server, 'listening');
	const url = `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
	writeFileSync(addressFile(data), url);
	io.out(`Loyal Heron is at ${url}\n`);
	if (host !== '127.0.0.1' && host !== 'localhost')
		io.err('It can be reached from other machines: name the addresses it may be spoken to by in HERON_HOSTS.\n');
	const ended = new Promise<void>((resolve) => process.once('sveltekit:shutdown' as 'exit', () => resolve()));
	return { url, ended };
}
