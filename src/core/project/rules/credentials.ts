import { hasExpression } from '../../values/index.ts';
import { refer, referCredential, type ProjectRule } from './rule.ts';

/** Connections, credentials and files that a credential names. */
export const credentials: ProjectRule = {
	name: 'credentials',
	look(looked) {
		const { workspace, files, names, wrong } = looked;
		for (const { name, value } of workspace.credentials.values()) {
			const file = `credentials/${name}.yaml`;
			const { connection, beside } = value;
			if (typeof beside === 'string') referCredential(looked, file, ['beside'], beside);
			if (typeof connection === 'string' && !hasExpression(connection))
				refer(wrong, file, ['connection'], 'connection', connection, names.connections);
			for (const field of ['certificate', 'key', 'pkcs12']) {
				const path = value[field];
				// what looks like neither a file nor PEM may be a shared secret
				if (typeof path === 'string' && /^[\w./-]+\.\w{2,5}$/.test(path) && !files.has(path))
					wrong(file, [field], 'file.missing', { file: path });
			}
		}
	}
};
