import { percentOf } from '../../tallies/index.ts';
import type { GateRule } from '../rule.ts';
import { goodRun, nameOf } from './new-failures.ts';

const shareOf = ({ touched, all }: { touched: number; all: number }): number =>
	all === 0 ? 100 : (100 * touched) / all;

export const coverageFall: GateRule = {
	key: 'coverageFall',
	doc: 'How many of a hundred less may be touched of the definitions that are called than in the last run whose gate held.',
	sentence: ({ coverageFall = 0, against }) =>
		`${coverageFall === 0 ? 'no less' : `at most ${coverageFall} of a hundred less`} is touched of the definitions than in the last good run${against ? ` of ${against}` : ''}`,
	judge(gate, { run, past, coverage }) {
		if (gate.coverageFall === undefined) return undefined;
		const now = coverage?.find(({ kind }) => kind === 'all');
		if (!now) return { holds: false, because: 'no call is one of a definition', places: [] };
		const words = (one: { touched: number; all: number }) => `${one.touched} of ${one.all}, ${percentOf(one)} %`;
		const counted = past.filter(({ covered }) => covered !== undefined);
		const before = goodRun(gate, run, counted);
		if (!before?.covered)
			return { holds: true, because: `${words(now)}; there is no good run yet that it was counted in`, places: [] };
		// a definition that grew is compared by its share
		const holds = shareOf(now) >= shareOf(before.covered) - gate.coverageFall;
		return { holds, because: `${words(now)}, after ${words(before.covered)} in ${nameOf(before)}`, places: [] };
	}
};
