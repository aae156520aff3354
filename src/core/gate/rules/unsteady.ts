import { stepsIn } from '../../run/index.ts';
import { shownPlaces, type GateRule } from '../rule.ts';

export const unsteady: GateRule = {
	key: 'unsteady',
	doc: 'How many of a hundred steps may pass on a later attempt only.',
	sentence: ({ unsteady = 0 }) =>
		unsteady === 0
			? 'every step passes on its first attempt, or on none'
			: `at most ${unsteady} % of the steps are unsteady`,
	judge(gate, facts) {
		if (gate.unsteady === undefined) return undefined;
		const { summary } = facts;
		const ran = stepsIn(summary) - summary.skipped;
		const share = ran === 0 ? 0 : (summary.unsteady / ran) * 100;
		return {
			holds: share <= gate.unsteady,
			because: `${summary.unsteady} of ${ran} are, ${Math.round(share * 10) / 10} %`,
			places: shownPlaces(facts.unsteady)
		};
	}
};
