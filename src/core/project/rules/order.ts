import { refer, type ProjectRule } from './rule.ts';

/** Collections that the project's order names: one that is not there is noted, since runs do not depend on it. */
export const order: ProjectRule = {
	name: 'order',
	look({ workspace, warn }) {
		const known = [...workspace.collections.keys()];
		workspace.project.order.forEach((name, index) =>
			refer(warn, 'heron.yaml', ['order', index], 'collection', name, known)
		);
	}
};
