import { didYouMean } from '../../messages.ts';
import { LOCAL_FILE } from '../../documents/local.ts';
import { refer, type ProjectRule } from './rule.ts';

/** Environments that the project, its suites and the values of this machine name. */
export const environments: ProjectRule = {
	name: 'environments',
	look({ workspace, names, wrong, warn }) {
		const { project, local, environments: known } = workspace;
		// what holds on one machine alone keeps nothing from running
		for (const name of Object.keys(local.environments)) {
			const at = { kind: 'environment', name, nearest: didYouMean(name, [...names.environments]) };
			if (!known.has(name)) warn(LOCAL_FILE, ['environments', name], 'model.reference', at);
		}
		refer(wrong, 'heron.yaml', ['environment'], 'environment', project.environment, names.environments);
	}
};
