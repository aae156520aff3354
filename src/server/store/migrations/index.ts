import { first } from './0001-first.ts';
import { vault } from './0002-vault.ts';
import { salts } from './0003-salts.ts';
import { results } from './0004-results.ts';
import { removed } from './0005-removed.ts';
import { folders } from './0006-folders.ts';
import { verdicts } from './0007-verdicts.ts';
import { tokens } from './0008-tokens.ts';
import { standIns } from './0009-stand-ins.ts';
import { changes } from './0010-changes.ts';
import { clocks } from './0011-clocks.ts';
import { keptRuns } from './0012-kept-runs.ts';
import { tallies } from './0013-tallies.ts';
import type { Migration } from './migration.ts';

/** In the order in which they are applied; one that has shipped is never changed. */
export const migrations: readonly Migration[] = [
	first,
	vault,
	salts,
	results,
	removed,
	folders,
	verdicts,
	tokens,
	standIns,
	changes,
	clocks,
	keptRuns,
	tallies
];
