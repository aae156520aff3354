import { shownPlaces, type GateRule } from '../rule.ts';

export const errors: GateRule = {
	key: 'errors',
	doc: 'How many steps may not be carried out.',
	sentence: ({ errors = 0 }) =>
		errors === 0 ? 'every step can be carried out' : `at most ${errors} may not be carried out`,
	judge(gate, { summary, faults }) {
		if (gate.errors === undefined) return undefined;
		return {
			holds: summary.errors <= gate.errors,
			because: `${summary.errors} could not be carried out`,
			places: shownPlaces(faults.filter(({ outcome }) => outcome === 'error'))
		};
	}
};
