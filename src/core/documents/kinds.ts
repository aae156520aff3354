import { collection } from './collection-kind.ts';
import { connection } from './connection.ts';
import { credential } from './credential.ts';
import { environment } from './environment.ts';
import type { Json } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { local } from './local.ts';
import { project } from './project.ts';
import { quarantine } from './quarantine.ts';
import { relationNames, relationOf } from '../checks/index.ts';
import { jsonSchemaOf } from '../model/shape.ts';
import { standIn } from './stand-in-kind.ts';
import { suite } from './suite.ts';

/** Every kind of file that a project holds as YAML. */
export const documentKinds: readonly DocumentKind[] = [
	project,
	connection,
	credential,
	environment,
	collection,
	suite,
	standIn,
	quarantine,
	local
];

/** The file of the project itself. */
export const PROJECT_FILE = project.file!;

/** Folders whose files are kept as they are. */
export const PLAIN_FOLDERS = ['datasets', 'definitions', 'schemas', 'baselines', 'files'] as const;

/** Whether a path leads nowhere else, and to nothing hidden. */
export const isTidy = (path: string): boolean =>
	path.split('/').every((part) => part !== '' && !part.startsWith('.') && !/[\\\0]/.test(part));

/** Whether a path is one of a file that is kept as it is: what expressions and bodies may read. */
export const isPlainFile = (path: string): boolean =>
	isTidy(path) && PLAIN_FOLDERS.some((folder) => path.startsWith(`${folder}/`));

/** The kind of a file by its path in the project, and the name by which others speak of it. */
export function kindOfFile(path: string): { kind: DocumentKind; name: string } | undefined {
	const single = documentKinds.find((one) => one.file === path);
	if (single) return { kind: single, name: '' };
	const match = /^([a-z-]+)\/([^/]+)\.yaml$/.exec(path);
	const kind = match && documentKinds.find((one) => one.folder === match[1]);
	return kind ? { kind, name: match[2]! } : undefined;
}

/** The path of a document in the project. */
export const fileOf = (kind: string, name: string): string => {
	const { folder, file } = documentKinds.find((one) => one.name === kind)!;
	return file ?? `${folder}/${name}.yaml`;
};

/** The JSON Schema (2020-12) of a kind of file. */
export function schemaOfKind(kind: DocumentKind): Json {
	const relations = Object.fromEntries(relationNames.map((name) => [name, relationOf(name)!.schema]));
	return {
		$schema: 'https://json-schema.org/draft/2020-12/schema',
		title: `Loyal Heron: ${kind.name}`,
		description: kind.doc,
		...(jsonSchemaOf(kind.schema) as object),
		$defs: { relations: { type: 'object', properties: relations, minProperties: 1 } }
	} as Json;
}

/** Whether a path may be a file of a project; everything else is left alone. */
export const isProjectFile = (path: string): boolean =>
	kindOfFile(path) !== undefined || PLAIN_FOLDERS.some((folder) => path.startsWith(`${folder}/`));
