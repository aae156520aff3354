import { namesUsed } from '../used.ts';
import type { ProjectRule } from './rule.ts';

/** So many unused variables of a file are named: more are a file that is not in use yet. */
const UNUSED_NAMED = 50;

/** Variables and secrets that no document speaks of. */
export const unused: ProjectRule = {
	name: 'unused',
	look({ workspace, warn }) {
		const used = namesUsed(workspace);
		if (used.open) return;
		const say = (file: string, variables: string[], secrets: string[]) => {
			const spare = variables.filter((name) => !used.env.has(name));
			for (const name of spare.slice(0, UNUSED_NAMED)) warn(file, ['variables', name], 'lint.unusedVariable', { name });
			for (const [index, name] of secrets.entries())
				if (!used.secret.has(name)) warn(file, ['secrets', index], 'lint.unusedSecret', { name });
		};
		say('heron.yaml', Object.keys(workspace.project.variables), []);
		for (const { name, variables, secrets } of workspace.environments.values())
			say(`environments/${name}.yaml`, Object.keys(variables), secrets);
	}
};
