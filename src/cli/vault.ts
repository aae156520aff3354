import { HeronError } from '#core/errors.ts';
import { readConfig } from '#server/config.ts';
import { takeLock } from '#server/lock.ts';
import { createStore, keyFrom, keyOfFile, newKeyFile } from '#server/store/index.ts';
import { existsSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { counted } from '#core/messages.ts';

/** `heron vault rekey`: seals what the vault of a server holds with another key. The server must not run. */
export async function vault(io: Io, [what, ...more]: string[], flags: Flags): Promise<number> {
	if (what !== 'rekey' || more.length > 0) throw new HeronError('usage.vault');
	const config = readConfig({ ...io.env, ...(one(flags, 'data') ? { HERON_DATA: one(flags, 'data') } : {}) });
	if (!existsSync(config.database)) throw new HeronError('path.none', { path: config.database });
	const given = io.env.HERON_NEW_KEY ?? '';
	if (config.key && !given) throw new HeronError('vault.newKey');
	const unlock = takeLock(join(config.dataDir, 'server.lock'));
	try {
		const key = config.key ? keyFrom(config.key) : keyOfFile(config.keyFile);
		// a key that is in a file is there before anything is sealed with it, and takes the old one's place afterwards
		const fresh = newKeyFile(config.keyFile);
		const next = given ? keyFrom(given) : keyOfFile(fresh);
		const store = await createStore(
			config.database,
			config.databaseLimit,
			key,
			existsSync(fresh) ? [keyOfFile(fresh)] : []
		);
		try {
			const { sealed, left } = await store.vault.rekey(next);
			if (!given) renameSync(fresh, config.keyFile);
			else if (!config.key) rmSync(config.keyFile, { force: true });
			io.out(`${counted(sealed, 'value')} sealed with the new key\n`);
			if (left > 0) io.err(`${counted(left, 'value')} could not be read with the old key, and stay as they are\n`);
			if (given) io.out('Start the server with HERON_KEY set to the new key.\n');
		} finally {
			await store.close();
		}
	} finally {
		unlock();
	}
	return 0;
}
