import { refer, type ProjectRule } from './rule.ts';

/** Environments, collections and scenarios that a suite names, and whether its own name leads to it. */
export const suites: ProjectRule = {
	name: 'suites',
	look({ workspace, names, wrong, warn }) {
		if (workspace.suites.size === 0) return;
		const known = new Set(names.targets());
		for (const suite of workspace.suites.values()) {
			const file = `suites/${suite.name}.yaml`;
			if (workspace.collections.has(suite.name)) warn(file, [], 'lint.suiteName', { name: suite.name });
			refer(wrong, file, ['environment'], 'environment', suite.environment, names.environments);
			suite.scenarios.forEach((entry, index) => {
				if ('tag' in entry || known.has(entry.target)) return;
				refer(wrong, file, ['scenarios', index], 'collection or scenario', entry.target, names.targets());
			});
		}
	}
};
