import { randomUUID } from 'node:crypto';
import { credentialKind } from '#core/auth/index.ts';
import type { Collection } from '#core/documents/collection.ts';
import { inEnvironment } from '#core/documents/connection.ts';
import { localIn } from '#core/documents/local.ts';
import type { Workspace } from '#core/project/index.ts';
import { whereUsed, type Use } from '#core/run/index.ts';
import type { CollectionBrief, CollectionsNow } from '$lib/wire.ts';

/** What every page needs of a project; what grows with its collections is asked for by itself. */
export function overviewOf(name: string, workspace: Workspace, files: ReadonlyMap<string, unknown>) {
	const { project, environments, connections, credentials, collections, suites, problems } = workspace;
	const uses = whereUsed(workspace, project.environment);
	return {
		name,
		title: project.title || name,
		environment: project.environment,
		environments: [...environments.values()].map(({ name, title, guarded, secrets, standIns }) => ({
			name,
			title,
			guarded,
			secrets,
			standIns,
			// names of variables that have a value of this machine
			local: Object.keys(localIn(workspace.local, name))
		})),
		connections: [...connections.values()].map((connection) => ({
			name: connection.name,
			title: connection.title,
			base: connection.base,
			// by environment where it differs, and under the empty name
			credentials: Object.fromEntries(
				['', ...connection.variants.keys()].map((environment) => [
					environment,
					inEnvironment(connection, environment).credential
				])
			),
			unverified: [['', connection] as const, ...connection.variants].some(
				// a stand-in's certificate is made when it starts
				([environment, one]) => one.tls?.verify === false && !environments.get(environment)?.standIns[connection.name]
			),
			...shortened(uses.connections.get(connection.name))
		})),
		credentials: [...credentials.values()].map(({ name, title, kind }) => ({
			name,
			title,
			kind,
			label: credentialKind(kind)?.label ?? kind,
			...shortened(uses.credentials.get(name)),
			connections: uses.connectionsByCredential.get(name) ?? []
		})),
		suites: [...suites.values()],
		ordered: project.order.length > 0,
		count: collections.size,
		// collections are listed by themselves; one that cannot be read is a file like any other
		files: [...files.keys()].filter((path) => !collections.has(/^collections\/([^/]*)\.yaml$/.exec(path)?.[1] ?? '')),
		problems: problems.filter(({ code }, at) => at < MOST_PROBLEMS || code === 'yaml.conflict'),
		problemCount: problems.length
	};
}

/** Pages show a few of them; that a file is in conflict is told of each. */
const MOST_PROBLEMS = 100;

/** More collections than these are counted, and not named. */
const MOST_USES = 200;
const shortened = (list: Use[] = []) => ({
	uses: list.slice(0, MOST_USES),
	moreUses: Math.max(0, list.length - MOST_USES),
	usedSteps: list.reduce((sum, { steps }) => sum + steps, 0)
});

const briefs = new WeakMap<Collection, CollectionBrief>();
function briefOf(collection: Collection): CollectionBrief {
	let brief = briefs.get(collection);
	if (!brief) {
		const { name, title, folder, connection, scenarios } = collection;
		brief = {
			...{ name, title, folder, connection },
			through: [
				...new Set(
					scenarios.flatMap((s) => [
						s.connection || connection,
						...s.steps.map((step) => step.send?.connection || s.connection || connection)
					])
				)
			],
			scenarios: scenarios.map((s) => ({
				...{ id: s.id, title: s.title, tags: s.tags, off: s.off },
				...(s.rows ? { data: s.rows.data } : {}),
				count: s.steps.length
			}))
		};
		briefs.set(collection, brief);
	}
	return brief;
}

/** So many states of a project are kept to be compared with. */
const KEPT = 12;

/** Tells pages what became of the collections of projects since they last looked. */
export function createCollectionsLog() {
	interface State {
		version: string;
		briefs: Map<string, CollectionBrief>;
	}
	const logs = new Map<string, { of: Workspace; states: State[] }>();
	return {
		/** @param since the version of an earlier look; null for none */
		now(name: string, workspace: Workspace, since: string | null): CollectionsNow {
			const states = logs.get(name)?.states ?? [];
			if (logs.get(name)?.of !== workspace) {
				const all = new Map([...workspace.collections.values()].map((one) => [one.name, briefOf(one)]));
				states.push({ version: randomUUID(), briefs: all });
				if (states.length > KEPT) states.shift();
				logs.set(name, { of: workspace, states });
			}
			const { version, briefs } = states.at(-1)!;
			const before = since === null ? undefined : states.find((one) => one.version === since)?.briefs;
			if (!before) return { version, collections: [...briefs.values()] };
			const names = [...briefs.keys()];
			let at = 0;
			const same = before.size === names.length && [...before.keys()].every((one) => one === names[at++]);
			return {
				...{ version, since: since! },
				collections: [...briefs.values()].filter((one) => before.get(one.name) !== one),
				...(same ? {} : { order: names })
			};
		},
		forget: (name: string) => void logs.delete(name)
	};
}
