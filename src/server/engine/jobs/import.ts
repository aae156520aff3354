import { planDefinitions } from '#core/definitions/index.ts';
import { HeronError } from '#core/errors.ts';
import { unpackDefinitions } from '../unpack.ts';
import { documents, files, type Handler, workspaceNow } from './context.ts';

export const importJob: Handler<'import'> = ({ order }) => {
	const { files: given, name, unnamed = false, connection, address, choose, fix } = order;
	const unpacked = unpackDefinitions(given);
	if (unpacked.length === 0) throw new HeronError('definition.none', { detail: 'no file was given' });
	return Promise.resolve(
		planDefinitions({
			...{ name, unnamed, files: unpacked, connection, workspace: workspaceNow() },
			...(address ? { address } : {}),
			...(choose ? { choose } : {}),
			...(fix ? { fix } : {}),
			readFile: (path) => files.get(path),
			valueOf: (path) => documents.get(path)?.value
		})
	);
};
