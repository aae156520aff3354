import { commands } from './commands.ts';
import { runCommand } from './command.ts';
import { standardIo } from './standard.ts';

async function main(): Promise<void> {
	const [name = '', ...args] = process.argv.slice(2);
	const io = standardIo();
	process.exitCode = await runCommand(commands, name, args, io);
	await io.ended();
	// for measuring: how much is held when all is done
	if (process.env.HERON_MEMORY && typeof globalThis.gc === 'function') {
		globalThis.gc();
		process.stderr.write(`memory ${process.memoryUsage().heapUsed + process.memoryUsage().external}\n`);
	}
}
void main();
