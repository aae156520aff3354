import { HeronError } from '#core/errors.ts';
import { existsSync, statSync } from 'node:fs';

/** @throws HeronError path.none where nothing is there, folder.failed where it is a folder */
export function assertFile(path: string): void {
	if (!existsSync(path)) throw new HeronError('path.none', { path });
	if (statSync(path).isDirectory()) throw new HeronError('folder.failed', { path, detail: 'it is a folder' });
}
