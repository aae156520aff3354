import { HeronError } from '#core/errors.ts';
import { nearest } from '#core/messages.ts';
import { documentKinds, schemaOfKind } from '#core/model/kinds.ts';
import type { Io } from './command.ts';

/** `heron schema KIND`. */
export async function schema(io: Io, [name = '']: string[]): Promise<number> {
	const kind = documentKinds.find((one) => one.name === name);
	if (!kind) {
		throw new HeronError('usage', {
			detail: `there is no kind of file "${name}"${nearest(
				name,
				documentKinds.map((one) => one.name)
			)}`
		});
	}
	io.out(`${JSON.stringify(schemaOfKind(kind), null, 2)}\n`);
	return 0;
}
