import { HeronError } from '#core/errors.ts';
import { closeSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** Whether a process is alive. One of somebody else's is. */
function isAlive(pid: number): boolean {
	try {
		process.kill(pid, 0);
		return true;
	} catch (error) {
		return (error as NodeJS.ErrnoException).code === 'EPERM';
	}
}

/**
 * Takes a folder of data for this process: a second server would take the runs of the first for interrupted ones.
 * @returns a function that gives it back
 * @throws HeronError store.taken with the process that has it
 */
export function takeLock(file: string): () => void {
	mkdirSync(dirname(file), { recursive: true });
	for (let attempt = 0; ; attempt++) {
		try {
			const handle = openSync(file, 'wx', 0o600);
			writeFileSync(handle, String(process.pid));
			closeSync(handle);
			return () => {
				if (readOwner(file) === process.pid) rmSync(file, { force: true });
			};
		} catch (error) {
			if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
			const owner = readOwner(file);
			// one that was left behind by a process that is no more
			if (owner !== process.pid && owner > 0 && isAlive(owner) && attempt < 3)
				throw new HeronError('store.taken', { dir: dirname(file), pid: owner }, { cause: error });
			rmSync(file, { force: true });
		}
	}
}

function readOwner(file: string): number {
	try {
		return Number(readFileSync(file, 'utf8').trim()) || 0;
	} catch {
		return 0;
	}
}
