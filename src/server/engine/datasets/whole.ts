import { HeronError } from '#core/errors.ts';
import { showSize } from '#core/model/units.ts';
import type { DataSource } from './source.ts';

/** What is not read row by row has to fit into memory. */
const WHOLE_LIMIT = 100_000_000;

/** The bytes of a file that cannot be read row by row. @throws HeronError dataset.large */
export function wholeFile(path: string, source: DataSource): Uint8Array {
	const size = source.size(path) ?? 0;
	if (size > WHOLE_LIMIT)
		throw new HeronError('dataset.large', {
			file: fileOf(path),
			limit: `${showSize(WHOLE_LIMIT)}; CSV is read row by row`
		});
	return source.whole(path);
}

/** The name of a dataset's file, below `datasets/`. */
export const fileOf = (path: string): string => path.slice('datasets/'.length);
