import { HeronError } from '#core/errors.ts';
import { lookUp } from '#core/model/lookup.ts';

/** What the system refuses (errno), as a person can do something about it. */
const REASONS: Record<string, string> = {
	ENOENT: 'it is not there',
	EACCES: 'it may not be read or written',
	EPERM: 'it may not be read or written',
	EROFS: 'it can only be read',
	ENOSPC: 'the disk is full',
	EISDIR: 'it is a folder',
	EEXIST: 'a file stands where a folder is wanted',
	ENOTDIR: 'a file stands where a folder is wanted',
	ELOOP: 'links lead in a circle'
};

/** What the system refused of a file or folder, in words; undefined for any other error. @param path where not the one that the error names is meant */
export function diskError(error: unknown, path = (error as NodeJS.ErrnoException).path): HeronError | undefined {
	const detail = lookUp(REASONS, (error as NodeJS.ErrnoException).code ?? '');
	if (detail === undefined || path === undefined) return undefined;
	return new HeronError('folder.failed', { path, detail }, { cause: error });
}
