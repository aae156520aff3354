import type { ParseArgsConfig } from 'node:util';

export interface Io {
	/** Standard output and standard error, for texts: what a terminal or a build's log would obey is taken out. */
	out(text: string): void;
	err(text: string): void;
	/** The same, for what is made for them: reports, colours. */
	raw: { out(text: string): void; err(text: string): void };
	/** Resolves when what was written to standard output is there; gives why it is not. */
	written(): Promise<{ code: string; message: string } | undefined>;
	env: Record<string, string | undefined>;
	version: string;
}

export type Flags = Record<string, string | boolean | string[] | undefined>;

/** One option: how it reads in the help, and whether it takes a value. */
interface Option {
	value?: string;
	many?: boolean;
	doc: string;
	/** Where the manual says more: a link in Markdown, as a page of `docs/` writes it. */
	see?: string;
}

/** One command; what it needs is loaded when it runs. */
export interface Command {
	name: string;
	takes: string;
	doc: string;
	options: Record<string, Option>;
	load(): Promise<(io: Io, names: string[], flags: Flags) => Promise<number>>;
}

/** Wrong usage, or nothing was sent. */
export const USAGE = 2;

const pad = (rows: [string, string][]): string => {
	const width = Math.max(...rows.map(([left]) => left.length)) + 2;
	return rows.map(([left, right]) => `  ${left.padEnd(width)}${right}\n`).join('');
};

function overview(commands: readonly Command[], version: string): string {
	const rows = commands.map((c): [string, string] => [`heron ${c.name} ${c.takes}`.trim(), c.doc]);
	return `Loyal Heron ${version}\n\n${pad(rows)}\nheron COMMAND --help tells the options of a command.\n`;
}

function help(command: Command): string {
	const rows = Object.entries(command.options).map(([name, o]): [string, string] => [
		`--${name}${o.value ? ` ${o.value}` : ''}`,
		o.doc
	]);
	return `heron ${command.name} ${command.takes}\n${command.doc}\n\n${rows.length ? pad(rows) : ''}`;
}

/** Finds the command, reads its options and runs it; gives the exit code. */
export async function runCommand(commands: readonly Command[], name: string, args: string[], io: Io): Promise<number> {
	if (name === '--version' || name === 'version') {
		io.out(`${io.version}\n`);
		return 0;
	}
	if (name === '--help' || name === 'help' || name === '-h' || name === '') {
		io.out(overview(commands, io.version));
		return name === '' ? USAGE : 0;
	}
	const command = commands.find((one) => one.name === name);
	const { didYouMean } = await import('#core/messages.ts');
	if (!command) {
		const known = commands.map((one) => one.name);
		io.err(
			name.startsWith('-')
				? `heron: a command comes before ${name.split('=')[0]}: one of ${known.join(', ')}\n`
				: `heron: there is no command "${name}"${didYouMean(name, known)}\n`
		);
		return USAGE;
	}
	const { parseArgs } = await import('node:util');
	const options: NonNullable<ParseArgsConfig['options']> = { help: { type: 'boolean', short: 'h' } };
	for (const [key, option] of Object.entries(command.options)) {
		options[key] = { type: option.value ? 'string' : 'boolean', multiple: option.many ?? false };
	}
	let parsed: { values: Flags; positionals: string[] };
	try {
		parsed = parseArgs({ args, options, allowPositionals: true, strict: true }) as typeof parsed;
	} catch (error) {
		const unknown = /option '--?([\w-]+)/.exec((error as Error).message)?.[1];
		const known = Object.keys(command.options);
		const guess =
			unknown && !known.includes(unknown)
				? `unknown option --${unknown}${didYouMean(unknown, known).replace(/"([\w-]+)"/, '--$1')}`
				: (error as Error).message.split('. ')[0]!;
		io.err(`heron ${name}: ${guess}\n`);
		return USAGE;
	}
	if (parsed.values.help) {
		io.out(help(command));
		return 0;
	}
	try {
		const run = await command.load();
		return await run(io, parsed.positionals, parsed.values);
	} catch (error) {
		const { HeronError, problemLine } = await import('#core/errors.ts');
		const { diskError } = await import('#server/disk.ts');
		const told = error instanceof HeronError ? error : diskError(error);
		if (!told) throw error;
		for (const problem of told.problems) io.err(`${problemLine(problem)}\n`);
		io.err(`heron ${name}: ${told.message}\n`);
		return USAGE;
	}
}

/** The value of an option that is given once. */
export const one = (flags: Flags, name: string): string | undefined => flags[name] as string | undefined;
