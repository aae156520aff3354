export { stepOf } from './scenarios.ts';
export { soapStep } from './soap-makings.ts';
import { HeronError } from '../errors.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isUnreadable } from '../model/yaml.ts';
import type { Workspace } from '../project/index.ts';
import type { ImportOrder } from '../imports/index.ts';
import { definitionFormats } from './formats/index.ts';
import { planUnnamed, withReplaced } from './naming.ts';

/** The files that a definition names: imports of a WSDL or XSD, references of an OpenAPI document, sources of an Arazzo document. */
export function filesNamedIn(text: string): string[] {
	for (const format of definitionFormats) {
		const found = format.names(text);
		if (found) return found;
	}
	return [];
}

/**
 * What the import of definitions does to a project: each becomes a collection, and replies are held against them.
 * Nothing is done yet.
 * @throws HeronError definition.*, file.unread
 */
export function planDefinitions(given: ImportOrder): DefinitionPlan[] {
	const plans = given.unnamed ? planUnnamed(given, plansOf) : withReplaced(plansOf(given), given);
	refuseUnread(
		given.workspace,
		plans.flatMap((plan) => plan.writes.map(({ path }) => path))
	);
	return plans;
}

function plansOf(given: ImportOrder): DefinitionPlan[] {
	const plans: DefinitionPlan[] = [];
	let left = given.files;
	for (const format of definitionFormats) {
		const documents = left.filter((file) => format.fits(file));
		if (documents.length === 0) continue;
		plans.push(...format.plan(given, documents));
		if (format.alone) return plans;
		left = left.filter((file) => !documents.includes(file));
	}
	// what nothing fits is taken for the last one, which says what it misses
	return left.length < given.files.length ? plans : definitionFormats.at(-1)!.plan(given, []);
}

/** What stands in a file must not be lost to a change that never saw it. @throws HeronError file.unread */
export function refuseUnread(workspace: Workspace, paths: readonly string[]): void {
	const unread = paths.find((path) => workspace.problems.some((one) => one.file === path && isUnreadable(one)));
	if (unread !== undefined) throw new HeronError('file.unread', { file: unread });
}
