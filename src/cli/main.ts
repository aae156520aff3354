import { commands } from './commands.ts';
import { runCommand } from './command.ts';
import { standardIo } from './standard.ts';

/** Something went wrong inside: nothing is said of what was looked at. */
const BROKEN = 5;
const MOST_PLACES = 6;

async function main(): Promise<void> {
	const [name = '', ...args] = process.argv.slice(2);
	const io = standardIo();
	process.on('uncaughtException', (error: unknown) => {
		// the lines of the program would hide the message
		const { message, stack = '' } = error instanceof Error ? error : new Error(String(error));
		const places = stack.split('\n').filter((line) => /^\s+at /.test(line));
		io.err(`heron ${name}: something went wrong inside: ${hidden(message)}\n`);
		for (const place of places.slice(0, MOST_PLACES)) io.err(`${place}\n`);
		process.exit(BROKEN);
	});
	process.exitCode = await runCommand(commands, name, args, io);
	await io.ended();
	// for measuring: how much is held when all is done
	if (process.env.HERON_MEMORY && typeof globalThis.gc === 'function') {
		globalThis.gc();
		process.stderr.write(`memory ${process.memoryUsage().heapUsed + process.memoryUsage().external}\n`);
	}
}

/** A message without the secrets of the environment. */
const hidden = (message: string): string =>
	Object.entries(process.env).reduce(
		(text, [name, value]) => (value && name.startsWith('HERON_SECRET_') ? text.replaceAll(value, '‹secret›') : text),
		message
	);
void main();
