import { stepNames } from '../../steps/index.ts';
import type { CollectionRule } from './rule.ts';

/** Uses of a row where there is none. */
export const rows: CollectionRule = {
	name: 'rows',
	look(collection, file, { links, warn }) {
		for (const [at, scenario] of collection.scenarios.entries()) {
			// what is called runs with the row of its caller
			if (scenario.rows || links.isCalled(collection.name, scenario.id)) continue;
			for (const [index, step] of scenario.steps.entries()) {
				if (step.each !== undefined) continue;
				const used = stepNames(step).find(({ root, optional }) => root === 'row' && !optional);
				if (!used) continue;
				const name = used.name ? `$row.${used.name}` : '$row';
				warn(file, ['scenarios', at, 'steps', index], 'lint.noRows', { name });
			}
		}
	}
};
