import { HeronError } from '#core/errors.ts';
import { createWriteStream, mkdirSync, openSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Io } from './command.ts';

export interface Output {
	write(text: string): void;
	/** Resolves when what was written is on its way. */
	drained(): Promise<void>;
	/** Ends it; gives what went wrong, or nothing. */
	close(): Promise<string | undefined>;
}

/** A file, or standard output for `-`. @throws HeronError usage.* when the file cannot be written */
export function openOutput(io: Io, file: string): Output {
	if (file === '-') {
		return {
			write: (text) => text && io.raw.out(text),
			drained: async () => {},
			async close() {
				const trouble = await io.written();
				return trouble && `standard output is not whole: ${trouble.message}`;
			}
		};
	}
	let fd: number;
	try {
		mkdirSync(dirname(file), { recursive: true });
		fd = openSync(file, 'w');
	} catch (cause) {
		throw new HeronError(
			'usage.unwritable',
			{ what: `the report ${file}`, detail: (cause as Error).message },
			{ cause }
		);
	}
	const stream = createWriteStream(file, { fd, highWaterMark: 1 << 20 });
	let problem: string | undefined;
	stream.on('error', (error) => (problem ??= `the report ${file} is not whole: ${error.message}`));
	return {
		write: (text) => {
			if (text && !problem) stream.write(text);
		},
		drained: () =>
			new Promise((resolve) => {
				if (problem || !stream.writableNeedDrain) return resolve();
				const free = () => {
					stream.off('drain', free).off('error', free);
					resolve();
				};
				stream.on('drain', free).on('error', free);
			}),
		close: () =>
			new Promise((resolve) => {
				if (problem) return resolve(problem);
				stream.once('error', () => resolve(problem));
				stream.end(() => resolve(problem));
			})
	};
}
