import type { MessageCode } from '../../messages.ts';
import { didYouMean } from '../../messages.ts';
import { hasExpression } from '../../values/index.ts';
import type { Collection } from '../../documents/collection.ts';
import type { Links } from '../links.ts';
import type { Workspace } from '../shape.ts';

/** Takes what is wrong, or seldom meant, at a place of a file. */
export type Tell = (
	file: string,
	at: (string | number)[],
	code: MessageCode,
	values: Record<string, string | number>
) => void;

/** What a rule looks at. */
export interface Looked {
	workspace: Workspace;
	/** Paths of all files. */
	files: ReadonlySet<string>;
	links: Links;
	names: Names;
	/** What keeps it from running. */
	wrong: Tell;
	/** What is allowed. */
	warn: Tell;
}

/** What documents say of each other: one rule. Those about one collection are looked at again only when something changed for it. */
export interface ProjectRule {
	name: string;
	look(looked: Looked): void;
}
/** A rule that looks at one collection, and at what it refers to. */
export interface CollectionRule {
	name: string;
	look(collection: Collection, file: string, looked: Looked): void;
}

/** The names that documents refer to, gathered once. */
export interface Names {
	connections: readonly string[];
	credentials: readonly string[];
	environments: readonly string[];
	/** `collection` and `collection/scenario`. */
	targets(): readonly string[];
}
/** The names that documents of a project may refer to. */
export function namesOf({ connections, credentials, environments, collections }: Workspace): Names {
	let targets: string[] | undefined;
	return {
		connections: [...connections.keys()],
		credentials: [...credentials.keys()],
		environments: [...environments.keys()],
		targets: () =>
			(targets ??= [...collections.values()].flatMap((one) => [
				one.name,
				...one.scenarios.map(({ id }) => `${one.name}/${id}`)
			]))
	};
}

/** Tells of a name that nothing bears. */
export function refer(
	wrong: Tell,
	file: string,
	at: (string | number)[],
	kind: string,
	name: string,
	known: readonly string[]
): void {
	if (name && !known.includes(name))
		wrong(file, at, 'model.reference', { kind, name, nearest: didYouMean(name, [...known]) });
}
/** Reports a connection that is not there; an expression is known only when it is sent. */
export function referConnection({ names, wrong }: Looked, file: string, at: (string | number)[], name: string): void {
	if (!hasExpression(name)) refer(wrong, file, at, 'connection', name, names.connections);
}
/** Reports a credential that is not there; an expression is known only when it is sent. */
export function referCredential({ names, wrong }: Looked, file: string, at: (string | number)[], name: string): void {
	if (name !== 'none' && !hasExpression(name)) refer(wrong, file, at, 'credential', name, names.credentials);
}
