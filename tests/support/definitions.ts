import { readdirSync } from 'node:fs';
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
