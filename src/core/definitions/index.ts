export { environmentsWith } from './services.ts';
export { stepOf } from './scenarios.ts';
import { looksLikeArazzo, planWorkflows, sourcesNamedIn } from '../arazzo/index.ts';
import { HeronError } from '../errors.ts';
import type { Workspace } from '../project/index.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isUnreadable } from '../model/yaml.ts';
import { filesReferred, looksLikeOpenapi } from '../openapi/index.ts';
import { locationsOf, planImport, type ImportOrder } from '../soap/index.ts';
import { decodeText } from '../values/index.ts';
import { planDocuments } from './openapi.ts';

/** The files that a definition names: imports of a WSDL or XSD, references of an OpenAPI document, sources of an Arazzo document. */
export const filesNamedIn = (text: string): string[] =>
	looksLikeArazzo(text)
		? sourcesNamedIn(text)
		: looksLikeOpenapi(text) || !/^\s*</.test(text)
			? filesReferred(text)
			: locationsOf(text);

const textOf = (bytes: Uint8Array): string => decodeText(bytes).text;

/**
 * What the import of definitions does to a project: each becomes a collection, and replies are held against them.
 * Nothing is done yet.
 * @throws HeronError definition.*, file.unread
 */
export function planDefinitions(given: ImportOrder): DefinitionPlan[] {
	const workflows = given.files.find(({ bytes }) => looksLikeArazzo(textOf(bytes)));
	if (workflows) {
		const plan = planWorkflows(given, workflows);
		refuseUnread(
			given.workspace,
			plan.writes.map(({ path }) => path)
		);
		return [plan];
	}
	const documents = given.files.filter(({ bytes }) => looksLikeOpenapi(textOf(bytes)));
	const wsdls = given.files.filter((file) => !documents.includes(file) && /\.wsdl$/i.test(file.path));
	const plans = [
		...(documents.length > 0 ? planDocuments(given, documents) : []),
		...(documents.length === 0 || wsdls.length > 0 ? planImport(given) : [])
	];
	refuseUnread(
		given.workspace,
		plans.flatMap((plan) => plan.writes.map(({ path }) => path))
	);
	return plans;
}

/** What stands in a file must not be lost to a change that never saw it. @throws HeronError file.unread */
export function refuseUnread(workspace: Workspace, paths: readonly string[]): void {
	const unread = paths.find((path) => workspace.problems.some((one) => one.file === path && isUnreadable(one)));
	if (unread !== undefined) throw new HeronError('file.unread', { file: unread });
}
