import { tableOf, type Dataset, type DataSpec } from '#core/datasets/index.ts';
import type { DataSource } from '../../../src/server/engine/datasets/index.ts';

/** One value a line. */
export const openMadeUp = (path: string, spec: DataSpec, source: DataSource): Dataset =>
	tableOf(
		path,
		new TextDecoder()
			.decode(source.whole(path))
			.trim()
			.split('\n')
			.map((berth) => ({ berth })),
		spec
	);
