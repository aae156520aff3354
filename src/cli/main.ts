import { commands } from './commands.ts';
import { runCommand } from './command.ts';

// a reader that has seen enough, such as head, ends us quietly
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
	if (error.code !== 'EPIPE') throw error;
	process.exit(process.exitCode ?? 0);
});

const [name = '', ...args] = process.argv.slice(2);
process.exitCode = await runCommand(commands, name, args, {
	out: (text) => process.stdout.write(text),
	err: (text) => process.stderr.write(text),
	env: process.env,
	version: __APP_VERSION__
});

// for measuring: how much is held when all is done
if (process.env.HERON_MEMORY && typeof globalThis.gc === 'function') {
	globalThis.gc();
	process.stderr.write(`memory ${process.memoryUsage().heapUsed + process.memoryUsage().external}\n`);
}
