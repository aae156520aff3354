import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const examples = new URL('../../node_modules/strong-soap/example/wsdls/', import.meta.url).pathname;

/** Public definitions that came with a package of the registry: name, and path without the first slash. */
export const publicDefinitions = (): [name: string, file: string][] =>
	readdirSync(examples)
		.sort()
		.map((name) => [name, join(examples, name).slice(1)]);

const wsdlFiles = (folder: string, to: string): [string, string][] => {
	const at = new URL(`../../${folder}/`, import.meta.url);
	return readdirSync(at, { recursive: true, encoding: 'utf8' })
		.filter((name) => /\.(wsdl|xsd)$/.test(name))
		.map((name) => [`definitions/${to}/${name}`, readFileSync(new URL(name, at), 'utf8')]);
};
/** The definitions of the demo's tolls, and one of all sorts, as files of a project. */
export const ownDefinitions = (): Map<string, string> =>
	new Map([...wsdlFiles('demo/reedmere/definitions/tolls', 'tolls'), ...wsdlFiles('tests/engine/definitions', 'yard')]);
