import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';

const modules = new URL('../../node_modules', import.meta.url).pathname;

/** Public definitions that came with packages of the registry: name, and path without the first slash. */
export function publicDefinitions(): [name: string, file: string][] {
	const folders = ['@afipsdk/afip.js/src/Afip_res', 'strong-soap/example/wsdls'];
	return folders.flatMap((folder) =>
		readdirSync(join(modules, folder))
			.filter((name) => name.endsWith('.wsdl'))
			.sort()
			.map((name): [string, string] => [basename(name), join(modules, folder, name).slice(1)])
	);
}

const wsdlFiles = (folder: string, to: string): [string, string][] => {
	const at = new URL(`../../${folder}/`, import.meta.url);
	return readdirSync(at, { recursive: true, encoding: 'utf8' })
		.filter((name) => /\.(wsdl|xsd)$/.test(name))
		.map((name) => [`definitions/${to}/${name}`, readFileSync(new URL(name, at), 'utf8')]);
};
/** The definitions of the demo's tolls, and one of all sorts, as files of a project. */
export const ownDefinitions = (): Map<string, string> =>
	new Map([...wsdlFiles('demo/reedmere/definitions/tolls', 'tolls'), ...wsdlFiles('tests/engine/definitions', 'yard')]);
