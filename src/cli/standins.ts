import { HeronError, textOf } from '#core/errors.ts';
import { startStandins } from '../../standins/index.ts';
import { one, type Flags, type Io } from './command.ts';

/** `heron standins`: runs until it is interrupted. */
export async function standins(io: Io, _: string[], flags: Flags): Promise<number> {
	const port = Number(one(flags, 'port') ?? 4681);
	if (!Number.isInteger(port) || port < 0 || port > 65_000)
		throw new HeronError('usage', { detail: `--port wants a port, this is "${one(flags, 'port')}"` });
	let running: Awaited<ReturnType<typeof startStandins>>;
	try {
		running = await startStandins(port);
	} catch (cause) {
		throw new HeronError('usage', { detail: `${textOf(cause)}: choose another with --port` }, { cause });
	}
	// listened for before it is said that they run: whoever hears it may end them at once
	const ended = new Promise<void>((resolve) => {
		for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve());
	});
	for (const { name, address } of running.list) io.out(`${name.padEnd(22)} ${address}\n`);
	io.err('Ctrl+C ends them.\n');
	await ended;
	await running.close();
	return 0;
}
