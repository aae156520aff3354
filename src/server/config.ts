import { parseSize } from '#core/model/units.ts';
import { delimiter, join } from 'node:path';

/** Everything the server takes from its environment, read and checked once. */
export interface Config {
	/** Where the database lives. */
	dataDir: string;
	database: string;
	/** The vault's key; empty for the one in `keyFile`. */
	key: string;
	keyFile: string;
	/** The size that the database may grow to, in bytes; 0 for what the disk allows. */
	databaseLimit: number;
	/** What is kept of results. */
	keep: { runs: number; sends: number; days: number };
	/** What who comes from another machine has to show; empty for nobody may. */
	token: string;
	/** Whoever works at this machine has to show the token as well. */
	asks: boolean;
	/** Addresses by which the server may be spoken to, beyond loopback. */
	hosts: string[];
	/** Folders below which projects may be folders; empty for all while it listens on loopback alone, and for none beyond. */
	folders: string[];
	/** The stand-ins that were started beside the server. */
	standins: { name: string; title: string; address: string; about?: string; definition?: string }[];
	env: Record<string, string | undefined>;
}

const count = (text: string | undefined, usual: number): number =>
	text !== undefined && /^\d{1,9}$/.test(text.trim()) ? Number(text) : usual;

/** Whether a token is wanted on loopback, too. */
export const asksFor = (env: Record<string, string | undefined>): boolean =>
	/^(1|true|yes|on)$/i.test((env.HERON_ASK_TOKEN ?? '').trim());

export function readConfig(env: Record<string, string | undefined>): Config {
	const dataDir = env.HERON_DATA ?? 'data';
	let standins: Config['standins'] = [];
	try {
		standins = JSON.parse(env.HERON_STANDINS ?? '[]') as Config['standins'];
	} catch {
		console.error('HERON_STANDINS is not JSON: no stand-ins are shown');
	}
	return {
		dataDir,
		database: join(dataDir, 'heron.db'),
		key: env.HERON_KEY ?? '',
		keyFile: env.HERON_KEY_FILE ?? join(dataDir, 'vault.key'),
		databaseLimit: parseSize(env.HERON_DATA_LIMIT) ?? 0,
		keep: {
			runs: count(env.HERON_KEEP_RUNS, 1000),
			sends: 1000,
			days: count(env.HERON_KEEP_DAYS, 0)
		},
		hosts: (env.HERON_HOSTS ?? '')
			.split(',')
			.map((host) => host.trim().toLowerCase())
			.filter(Boolean),
		token: env.HERON_TOKEN ?? '',
		asks: asksFor(env),
		folders: (env.HERON_FOLDERS ?? '').split(delimiter).filter(Boolean),
		standins,
		env
	};
}
