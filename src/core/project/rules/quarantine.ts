import { QUARANTINE_FILE } from '../../documents/quarantine.ts';
import { refer, type ProjectRule } from './rule.ts';

/** Scenarios, steps and checks that the quarantine names. */
export const quarantine: ProjectRule = {
	name: 'quarantine',
	look({ workspace, names, wrong }) {
		const { entries } = workspace.quarantine;
		if (entries.length === 0) return;
		const known = names.targets().filter((target) => target.includes('/'));
		entries.forEach(({ scenario, step, checks }, index) => {
			const at = ['failures', index];
			refer(wrong, QUARANTINE_FILE, [...at, 'scenario'], 'scenario', scenario, known);
			const [collection = '', id = ''] = scenario.split('/');
			const found = workspace.collections.get(collection)?.scenarios.find((one) => one.id === id);
			if (!found || !step) return;
			const own = found.steps.find((one) => one.id === step.split('/')[0]);
			if (!own)
				return refer(
					wrong,
					QUARANTINE_FILE,
					[...at, 'step'],
					'step',
					step,
					found.steps.map((one) => one.id)
				);
			// steps of a scenario that is called have checks of their own
			if (step.includes('/') || !own.send) return;
			const count = own.send.checks.length;
			checks.forEach((number, n) => {
				if (number > count)
					wrong(QUARANTINE_FILE, [...at, 'checks', n], 'model.reference', {
						kind: 'check',
						name: String(number),
						nearest: `: the step has ${count}`
					});
			});
		});
	}
};
