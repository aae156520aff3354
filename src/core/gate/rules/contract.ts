import { counted } from '../../messages.ts';
import { shownPlaces, type GateRule } from '../rule.ts';

export const contract: GateRule = {
	key: 'contract',
	doc: 'How many checks against a definition may not hold.',
	sentence: ({ contract = 0 }) =>
		contract === 0
			? 'every answer fits its definition'
			: `at most ${counted(contract, 'answer')} may not fit the definition`,
	judge(gate, facts) {
		if (gate.contract === undefined) return undefined;
		return {
			holds: facts.contract.length <= gate.contract,
			because: `${facts.contract.length} do not`,
			places: shownPlaces(facts.contract)
		};
	}
};
