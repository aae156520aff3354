import { same } from '../../model/json.ts';
import type { Connection } from '../../documents/connection.ts';
import { refer, referCredential, type ProjectRule } from './rule.ts';

/** Credentials, environments, definitions and files that a connection names. */
export const connections: ProjectRule = {
	name: 'connections',
	look(looked) {
		const { workspace, files, names, wrong } = looked;
		for (const connection of workspace.connections.values()) {
			const { name, definition } = connection;
			const file = `connections/${name}.yaml`;
			if (definition && !files.has(`definitions/${definition}`))
				wrong(file, ['definition'], 'file.missing', { file: `definitions/${definition}` });
			referCredential(looked, file, ['credential'], connection.credential);
			for (const [environment, variant] of connection.variants) {
				refer(wrong, file, ['environments', environment], 'environment', environment, names.environments);
				if (variant.credential !== connection.credential)
					referCredential(looked, file, ['environments', environment, 'credential'], variant.credential);
			}
			const missing = (one: Connection, above: string[]) => {
				for (const [at, path] of filesOfConnection(one))
					if (!files.has(path)) wrong(file, [...above, ...at], 'file.missing', { file: path });
			};
			missing(connection, []);
			// what an environment does not change was looked at above
			for (const [environment, variant] of connection.variants)
				if (!same(variant.tls, connection.tls)) missing(variant, ['environments', environment]);
		}
	}
};

/** Files that a connection's transport is read from, with their place; PEM and computed paths left out. */
function filesOfConnection({ tls }: Connection): [(string | number)[], string][] {
	const named: [(string | number)[], string][] = [
		...(tls?.authorities ?? []).map((path, index): [(string | number)[], string] => [
			['tls', 'authorities', index],
			path
		]),
		[['tls', 'client', 'certificate'], tls?.client?.certificate ?? ''],
		[['tls', 'client', 'key'], tls?.client?.key ?? ''],
		[['tls', 'client', 'pkcs12'], tls?.client?.pkcs12 ?? '']
	];
	return named.filter(([, path]) => path !== '' && !path.includes('{$') && !path.includes('-----BEGIN'));
}
