import type { Flags, Io } from '../../../src/cli/command.ts';

export async function madeUp(io: Io, names: string[], { loud }: Flags): Promise<number> {
	io.out(`${loud ? 'AHOY' : 'ahoy'} ${names.join(' ')}\n`);
	return 3;
}
