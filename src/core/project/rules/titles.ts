import { hasExpression } from '../../values/index.ts';
import type { CollectionRule } from './rule.ts';

/** Titles that hold expressions: a title is the same in every result of a step. */
export const titles: CollectionRule = {
	name: 'titles',
	look(collection, file, { warn }) {
		const look = (title: string, at: (string | number)[]) => {
			if (hasExpression(title)) warn(file, [...at, 'title'], 'lint.title', {});
		};
		look(collection.title, []);
		for (const [at, scenario] of collection.scenarios.entries()) {
			look(scenario.title, ['scenarios', at]);
			for (const [index, { title }] of scenario.steps.entries()) look(title, ['scenarios', at, 'steps', index]);
		}
	}
};
