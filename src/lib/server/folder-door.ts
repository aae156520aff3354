import { HeronError } from '#core/errors.ts';
import { folderPath } from '#server/folder/mirror.ts';
import { realpathSync } from 'node:fs';
import { dirname, resolve, sep } from 'node:path';
import { isLoopback } from './door.ts';

/** The nearest folder that is there, links resolved. */
function realOf(path: string): string {
	for (let at = resolve(path); ; at = dirname(at)) {
		try {
			return realpathSync(at) + resolve(path).slice(at.length);
		} catch {
			if (dirname(at) === at) return resolve(path);
		}
	}
}

/**
 * Refuses a folder that may not be opened from a page: whoever reaches a server from another machine is not to read and
 * write all that its user may.
 * @param allowed folders below which all may be opened (HERON_FOLDERS)
 * @param host where the server listens
 * @throws HeronError folder.unnamed, folder.elsewhere
 */
export function assertFolder(given: string, allowed: readonly string[], host: string): void {
	if (allowed.length === 0 && isLoopback(host)) return;
	const real = realOf(folderPath(given));
	const below = allowed.map((one) => realOf(folderPath(one)));
	if (below.some((one) => real === one || real.startsWith(one.endsWith(sep) ? one : one + sep))) return;
	if (allowed.length === 0) throw new HeronError('folder.unnamed');
	throw new HeronError('folder.elsewhere', { folders: allowed.join(' and '), folder: given });
}
