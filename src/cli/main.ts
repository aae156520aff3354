import { commands } from './commands.ts';
import { runCommand } from './command.ts';

const [name = '', ...args] = process.argv.slice(2);
process.exitCode = await runCommand(commands, name, args, {
	out: (text) => process.stdout.write(text),
	err: (text) => process.stderr.write(text),
	env: process.env,
	version: __APP_VERSION__
});
