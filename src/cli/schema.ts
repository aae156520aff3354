import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { documentKinds, schemaOfKind } from '#core/documents/kinds.ts';
import { mkdirSync, writeFileSync } from 'node:fs';
import { isAbsolute, join } from 'node:path';
import { one, type Flags, type Io } from './command.ts';

/** `heron schema KIND`, or `heron schema --all DIR`. */
export async function schema(io: Io, [name = '']: string[], flags: Flags): Promise<number> {
	const dir = one(flags, 'all');
	if (dir !== undefined) {
		if (name) throw new HeronError('usage.allKinds', { name });
		for (const path of writeSchemas(dir)) io.out(`${path}\n`);
		io.out(`\nAn editor that reads YAML by schemas finds one by a comment at the head of a file:\n`);
		io.out(`# ${schemaComment(isAbsolute(dir) ? dir : `../${dir}`, 'collection')}\n`);
		return 0;
	}
	const kind = documentKinds.find((one) => one.name === name);
	if (!kind) {
		throw new HeronError('usage.fileKind', {
			name,
			nearest: didYouMean(
				name,
				documentKinds.map((one) => one.name)
			)
		});
	}
	io.out(`${JSON.stringify(schemaOfKind(kind), null, 2)}\n`);
	return 0;
}

const fileOf = (kind: string): string => `${kind}.schema.json`;

/** What an editor's YAML language server looks for: the schema of a file, by a path from that file. */
export const schemaComment = (dir: string, kind: string): string =>
	`yaml-language-server: $schema=${`${dir.replace(/\\/g, '/').replace(/\/+$/, '')}/${fileOf(kind)}`}`;

/** Writes the JSON Schemas of all kinds of files into a folder. @returns the files */
export function writeSchemas(dir: string): string[] {
	mkdirSync(dir, { recursive: true });
	return documentKinds.map((kind) => {
		const path = join(dir, fileOf(kind.name));
		writeFileSync(path, `${JSON.stringify(schemaOfKind(kind), null, '\t')}\n`);
		return path;
	});
}
