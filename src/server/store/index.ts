import { randomBytes } from 'node:crypto';
import { openDatabase, storeError } from './database.ts';
import { renameEnvironment } from './environments.ts';
import { createFileStore, type FileStore } from './files.ts';
import { createCalloutStore, type CalloutStore } from './callouts.ts';
import { createClockStore, type ClockStore } from './clocks.ts';
import { createHistoryStore, type HistoryStore } from './history.ts';
import { letGo, type LetGo, type Policy } from './retention.ts';
import { createPastStore, type PastStore } from './past.ts';
import { createReachStore, type ReachStore } from './reaches.ts';
import { createTokenStore, type TokenStore } from './tokens.ts';
import { createStandInStore, type StandInStore } from './stand-ins.ts';
import { createRunStore, type RunStore } from './runs.ts';
import { createTallies } from './tallies.ts';

import { createVault, type Vault } from './vault.ts';
import { keyFrom, type VaultKey } from './vault-key.ts';

export type { Vault } from './vault.ts';
export { keyFrom, keyOfFile, newKeyFile, type VaultKey } from './vault-key.ts';
export { OCCASIONS, type Callout, type Delivery, type Occasion } from './callouts.ts';
export type { Clock, ClockStore } from './clocks.ts';
export { CHANGES_DAYS, type HistoryStore, type Mark } from './history.ts';
export type { Policy } from './retention.ts';
export type { RunFilter, RunLine, StepMoment } from './past.ts';
export { MAY, TOKEN_MARK, type Grant, type May, type TokenFacts } from './tokens.ts';
export type { StandInStore } from './stand-ins.ts';
export type { FileChange, FileStore, StoredFile } from './files.ts';
export type { RunStatus, RunStore, StoredRun } from './runs.ts';
export { eachStep, type StoredAnswer } from './results.ts';
export type { StoredExchange, StoredReply, StoredStep } from './stored.ts';
export type { StoredBody } from './bodies.ts';

export interface Store {
	files: FileStore;
	runs: RunStore;
	past: PastStore;
	history: HistoryStore;
	clocks: ClockStore;
	callouts: CalloutStore;
	tokens: TokenStore;
	vault: Vault;
	reaches: ReachStore;
	standIns: StandInStore;
	/**
	 * What is kept of an environment beside the project's files is kept under another name: its secrets and tokens, and what came
	 * last of each step and connection there. Runs stay as they were.
	 */
	renameEnvironment(project: string, from: string, to: string): Promise<void>;
	/** Removes what is old; nobody may be recording meanwhile. */
	letGo(policy: Policy, now?: number): Promise<LetGo>;
	close(): Promise<void>;
}

/** Every function of an object gives errors that people can act on. */
function withStoreErrors<T extends object>(part: T): T {
	return new Proxy(part, {
		get(target, name, receiver) {
			const value: unknown = Reflect.get(target, name, receiver);
			if (typeof value !== 'function') return value;
			return (...args: unknown[]) =>
				Promise.resolve(value.apply(target, args) as unknown).catch((error: unknown) => {
					throw storeError(error);
				});
		}
	});
}

/** Opens the store of a database file, which may grow to `limitBytes` (0: no limit); `key` opens its vault, `others` what was sealed with them. @throws HeronError store.* */
export async function createStore(
	file: string,
	limitBytes = 0,
	key: VaultKey = keyFrom(randomBytes(32).toString('hex')),
	others: readonly VaultKey[] = []
): Promise<Store> {
	const sequelize = await openDatabase(file, limitBytes);
	const vault = await createVault(sequelize, key, others).catch(async (error: unknown) => {
		await sequelize.close();
		throw storeError(error);
	});
	const tallies = createTallies();
	return {
		files: withStoreErrors(createFileStore(sequelize)),
		runs: withStoreErrors(createRunStore(sequelize, tallies)),
		past: withStoreErrors(createPastStore(sequelize, tallies)),
		clocks: withStoreErrors(createClockStore(sequelize)),
		callouts: withStoreErrors(createCalloutStore(sequelize)),
		history: withStoreErrors(createHistoryStore(sequelize)),
		tokens: withStoreErrors(createTokenStore(sequelize)),
		vault: withStoreErrors(vault),
		reaches: withStoreErrors(createReachStore()),
		standIns: withStoreErrors(createStandInStore(sequelize)),
		renameEnvironment: (project, from, to) =>
			renameEnvironment(sequelize, vault, project, { from, to }).catch((error: unknown) => {
				throw storeError(error);
			}),
		letGo: (policy, now = Date.now()) =>
			letGo(sequelize, policy, now).catch((error: unknown) => {
				throw storeError(error);
			}),
		close: () => sequelize.close()
	};
}
