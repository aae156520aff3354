import type { CollectionRule } from './rule.ts';

/** What checks hold an answer against, and is not there: they can only end as errors. */
export const expected: CollectionRule = {
	name: 'expected',
	look(collection, file, { files, warn }) {
		const defined = [...files].some((path) => /^definitions\/./.test(path));
		const approved = (name: string) =>
			[...files].some((path) => path.startsWith(`baselines/${name}.`) || path.startsWith(`baselines/${name}@`));
		collection.scenarios.forEach(({ steps }, at) =>
			steps.forEach((step, index) =>
				step.send?.checks.forEach(({ kind, off, relations }, n) => {
					const place = ['scenarios', at, 'steps', index, 'checks', n];
					if (off) return;
					if (kind === 'contract' && !defined) warn(file, place, 'lint.noDefinition', {});
					const name = kind === 'baseline' ? String(relations[0]?.expected) : '';
					if (name && !name.includes('{$') && !approved(name)) warn(file, place, 'lint.noBaseline', { name });
				})
			)
		);
	}
};
