import type { CollectionRule } from '../../../src/core/project/rules/rule.ts';

export const madeUp: CollectionRule = {
	name: 'one scenario',
	look({ scenarios }, file, { warn }) {
		if (scenarios.length > 1) warn(file, ['scenarios', 1], 'lint.unchecked', {});
	}
};
