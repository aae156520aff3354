import type { CollectionRule } from './rule.ts';

/** What is asked of the files for each collection: looked for once in each list of them. */
const facts = new WeakMap<object, { defined: boolean; baselines: ReadonlySet<string> }>();
function factsOf(files: ReadonlySet<string>) {
	let found = facts.get(files);
	if (!found) {
		const baselines = new Set<string>();
		let defined = false;
		for (const path of files) {
			defined ||= /^definitions\/./.test(path);
			// a baseline is NAME.json, or NAME@environment.json
			const [, name = ''] = /^baselines\/(.*)$/s.exec(path) ?? [];
			for (const { index } of name.matchAll(/[.@]/g)) baselines.add(name.slice(0, index));
		}
		facts.set(files, (found = { defined, baselines }));
	}
	return found;
}

/** What checks hold an answer against, and is not there: they can only end as errors. */
export const expected: CollectionRule = {
	name: 'expected',
	look(collection, file, { files, warn }) {
		const { defined, baselines } = factsOf(files);
		collection.scenarios.forEach(({ steps }, at) =>
			steps.forEach((step, index) =>
				step.send?.checks.forEach(({ kind, off, relations }, n) => {
					const place = ['scenarios', at, 'steps', index, 'checks', n];
					if (off) return;
					if (kind === 'contract' && !defined) warn(file, place, 'lint.noDefinition', {});
					const name = kind === 'baseline' ? String(relations[0]?.expected) : '';
					if (name && !name.includes('{$') && !baselines.has(name)) warn(file, place, 'lint.noBaseline', { name });
				})
			)
		);
	}
};
