import { counted } from '../../messages.ts';
import { shownPlaces, type GateRule } from '../rule.ts';

export const failed: GateRule = {
	key: 'failed',
	doc: 'How many steps may fail.',
	sentence: ({ failed = 0 }) => (failed === 0 ? 'no step fails' : `at most ${counted(failed, 'step')} may fail`),
	judge(gate, { summary, faults }) {
		if (gate.failed === undefined) return undefined;
		return {
			holds: summary.failed <= gate.failed,
			because: `${summary.failed} failed`,
			places: shownPlaces(faults.filter(({ outcome }) => outcome === 'failed'))
		};
	}
};
