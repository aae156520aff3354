import type { StandIn } from '../documents/stand-in.ts';
import { webhooksOf } from '../openapi/index.ts';
import type { Workspace } from './shape.ts';

/** Names of the webhooks of a stand-in's definition; none where that is a WSDL, or cannot be read. */
export function webhooksFor({ openapis }: Pick<Workspace, 'openapis'>, { definition }: StandIn): string[] {
	if (!definition || /\.wsdl$/i.test(definition)) return [];
	const file = definition.startsWith('definitions/') ? definition : `definitions/${definition}`;
	const found = openapis.all().find((one) => one.file === file)?.definition;
	return found ? [...new Set(webhooksOf(found.document).map(({ name }) => name))] : [];
}
