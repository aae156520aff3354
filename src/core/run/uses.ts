import { inEnvironment } from '../documents/connection.ts';
import type { Workspace } from '../project/index.ts';
import { inheritedCredential } from './authorize.ts';
import { allScenarios } from './plan.ts';

/** How many steps of a collection use something, and the first of them as `scenario/step`. */
export interface Use {
	collection: string;
	title: string;
	steps: number;
	some: string[];
}

const NAMED = 20;
/** Where connections, credentials and others are used in a project. */
export interface Uses {
	connections: Map<string, Use[]>;
	credentials: Map<string, Use[]>;
	/** Connections that bear a credential: credential → connections. */
	connectionsByCredential: Map<string, string[]>;
}

/** Where connections and credentials are used in an environment. */
export function whereUsed(workspace: Workspace, environment: string): Uses {
	const uses: Uses = { connections: new Map(), credentials: new Map(), connectionsByCredential: new Map() };
	const count = (map: Map<string, Use[]>, name: string, collection: string, place: string) => {
		if (!name) return;
		const list = map.get(name) ?? [];
		map.set(name, list);
		// the scenarios of a collection follow each other
		let use = list.at(-1);
		if (use?.collection !== collection) {
			use = { collection, title: workspace.collections.get(collection)?.title ?? collection, steps: 0, some: [] };
			list.push(use);
		}
		use.steps += 1;
		if (use.some.length < NAMED) use.some.push(place);
	};
	for (const chosen of allScenarios(workspace)) {
		for (const { id, send } of chosen.scenario.steps) {
			if (!send) continue;
			const { collection, connection, scenario } = chosen;
			const place = `${scenario.id}/${id}`;
			count(uses.connections, send.connection || connection, collection, place);
			count(uses.credentials, inheritedCredential(workspace, chosen, send, environment).name, collection, place);
		}
	}
	for (const connection of workspace.connections.values()) {
		const { credential } = inEnvironment(connection, environment);
		if (!credential || credential === 'none') continue;
		uses.connectionsByCredential.set(credential, [
			...(uses.connectionsByCredential.get(credential) ?? []),
			connection.name
		]);
	}
	return uses;
}
