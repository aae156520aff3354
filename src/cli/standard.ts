import { tame } from '#core/tame.ts';
import type { Io } from './command.ts';

/** The run is complete, but what came of it could not be written. */
const NOT_WRITTEN = 4;

/** Standard output and standard error. A reader that goes away, or a full disk, ends the printing and nothing else. */
export function standardIo(): Io & { ended(): Promise<void> } {
	let trouble: NodeJS.ErrnoException | undefined;
	let deaf = false;
	process.stdout.on('error', (error) => (trouble ??= error));
	process.stderr.on('error', () => (deaf = true));
	const raw = {
		out: (text: string) => void (trouble ?? process.stdout.write(text)),
		err: (text: string) => void (deaf || process.stderr.write(text))
	};
	const written = async () => {
		// what was written last has arrived, or failed, when this has
		if (!trouble) await new Promise<void>((resolve) => process.stdout.write('', () => resolve()));
		await new Promise((resolve) => setImmediate(resolve));
		return trouble && { code: trouble.code ?? '', message: trouble.message };
	};
	return {
		out: (text) => raw.out(tame(text)),
		err: (text) => raw.err(tame(text)),
		raw,
		written,
		env: process.env,
		version: __APP_VERSION__,
		async ended() {
			const left = await written();
			if (!left || left.code === 'EPIPE') return;
			if (process.exitCode === 0) {
				raw.err(`heron: standard output is not whole: ${left.message}\n`);
				process.exitCode = NOT_WRITTEN;
			}
		}
	};
}
