import { HeronError } from '#core/errors.ts';
import { randomBytes } from 'node:crypto';
import type { Sequelize, Transaction } from 'sequelize';
import { RevealRow, SaltRow, SealedRow } from './tables/index.ts';
import { keyFrom, seal, unseal, type VaultKey } from './vault-key.ts';

const SALT = 'vault';

/** `kept`: what a step of a scenario kept and nobody reads; `callout`: what calls are signed with that tell of verdicts. */
type SealedKind = 'secret' | 'token' | 'kept' | 'callout';

interface SealedFacts {
	/** Empty for all environments. */
	environment: string;
	name: string;
	updatedAt: number;
	/** Whether the key opens it. */
	readable: boolean;
}

/** Where a value lies. */
type Place = Pick<SealedRow, 'project' | 'kind' | 'environment' | 'name'>;
/** What a value is sealed for: it opens nowhere else. */
const about = ({ project, kind, environment, name }: Place) => JSON.stringify([project, kind, environment, name]);
const placeOf = ({ project, kind, environment, name }: SealedRow): Place => ({ project, kind, environment, name });

/** What must not be read by whoever reads the database. */
export class Vault {
	readonly #sequelize: Sequelize;
	#key: VaultKey;
	/** It opens with each of them. */
	readonly #keys: VaultKey[];

	/** @param others keys that open what was sealed before; a change of keys that was interrupted leaves some under each */
	constructor(sequelize: Sequelize, key: VaultKey, others: readonly VaultKey[]) {
		this.#sequelize = sequelize;
		this.#key = key;
		this.#keys = [key, ...others];
	}

	/** Takes out all that a project has there. */
	async clear(project: string): Promise<void> {
		await SealedRow.destroy({ where: { project } });
	}

	/** Seals everything with another key; `left` could not be read with the one so far, and stays as it is. */
	async rekey(next: VaultKey): Promise<{ sealed: number; left: number }> {
		const salt = next.phrase === undefined ? undefined : randomBytes(16);
		const salted = salt ? keyFrom(next.phrase!, salt) : next;
		const done = await this.#sealAnew(salted, salt);
		this.#keys.push(salted);
		this.#key = salted;
		return done;
	}

	/** Seals what was sealed before the database had a salt. */
	async catchUp(unsalted: VaultKey): Promise<void> {
		if ((await SealedRow.count({ where: { keyId: unsalted.id } })) > 0) await this.#sealAnew(this.#key);
	}

	#sealAnew(next: VaultKey, salt?: Buffer): Promise<{ sealed: number; left: number }> {
		return this.#sequelize.transaction(async (transaction) => {
			const rows = await SealedRow.findAll({ raw: true, transaction });
			let sealed = 0;
			for (const row of rows) {
				const text = this.#open(row);
				if (text === undefined) continue;
				sealed++;
				await SealedRow.update(
					{ keyId: next.id, bytes: seal(next, about(row), text) },
					{ where: placeOf(row), silent: true, transaction }
				);
			}
			if (salt) await SaltRow.upsert({ name: SALT, bytes: salt }, { transaction });
			return { sealed, left: rows.length - sealed };
		});
	}

	/** What lies there for an environment lies there for the one of another name from then on; what no key opens stays. */
	async move(project: string, from: string, to: string, transaction: Transaction): Promise<void> {
		for (const row of await SealedRow.findAll({ where: { project, environment: from }, raw: true, transaction })) {
			const text = this.#open(row);
			if (text === undefined) continue;
			await SealedRow.upsert(this.#sealed({ ...placeOf(row), environment: to }, text), { transaction });
			await SealedRow.destroy({ where: placeOf(row), transaction });
		}
		await RevealRow.update({ environment: to }, { where: { project, environment: from }, transaction });
	}

	#sealed(place: Place, text: string) {
		return { ...place, keyId: this.#key.id, bytes: seal(this.#key, about(place), text) };
	}

	#open(row: SealedRow): string | undefined {
		const key = this.#keys.find(({ id }) => id === row.keyId);
		return key && unseal(key, about(row), row.bytes);
	}

	async write(project: string, kind: SealedKind, environment: string, name: string, text: string): Promise<void> {
		await SealedRow.upsert(this.#sealed({ project, kind, environment, name }, text));
	}

	async remove(project: string, kind: SealedKind, environment: string, name: string): Promise<void> {
		await SealedRow.destroy({ where: { project, kind, environment, name } });
	}

	/** What there is, without values. */
	async list(project: string, kind: SealedKind): Promise<SealedFacts[]> {
		const rows = await SealedRow.findAll({ where: { project, kind }, order: ['name', 'environment'], raw: true });
		return rows.map((row) => ({
			environment: row.environment,
			name: row.name,
			updatedAt: new Date(row.updatedAt).getTime(),
			readable: this.#open(row) !== undefined
		}));
	}

	/** Values that the key opens, of one environment over those of all. */
	async read(project: string, kind: SealedKind, environment: string): Promise<Record<string, string>> {
		const rows = await SealedRow.findAll({
			where: { project, kind, environment: [...new Set(['', environment])] },
			order: ['environment'],
			raw: true
		});
		const values: Record<string, string> = {};
		for (const row of rows) {
			const value = this.#open(row);
			if (value !== undefined) values[row.name] = value;
		}
		return values;
	}

	/** One value; undefined where there is none, or none that the key opens. */
	async readOne(project: string, kind: SealedKind, environment: string, name: string): Promise<string | undefined> {
		const row = await SealedRow.findOne({ where: { project, kind, environment, name }, raw: true });
		return row ? this.#open(row) : undefined;
	}

	/** Notes that a value was shown. */
	async noteShown(project: string, environment: string, name: string): Promise<void> {
		await RevealRow.create({ project, environment, name, at: Date.now() });
	}

	/** A value for somebody's eyes; that it was shown is noted. @throws HeronError request.notFound, vault.key */
	async reveal(project: string, environment: string, name: string): Promise<string> {
		const row = await SealedRow.findOne({ where: { project, kind: 'secret', environment, name }, raw: true });
		if (!row) throw new HeronError('request.notFound', { what: `the secret ${name}` });
		const value = this.#open(row);
		if (value === undefined) throw new HeronError('vault.key', { count: '1 secret' });
		await this.noteShown(project, environment, name);
		return value;
	}

	async reveals(project: string): Promise<{ environment: string; name: string; at: number }[]> {
		const rows = await RevealRow.findAll({ where: { project }, order: [['at', 'DESC']], limit: 100, raw: true });
		return rows.map(({ environment, name, at }) => ({ environment, name, at }));
	}
}

/** The vault of an open database; `others` are keys that open what was sealed before. */
export async function createVault(
	sequelize: Sequelize,
	given: VaultKey,
	others: readonly VaultKey[] = []
): Promise<Vault> {
	if (given.phrase === undefined) return new Vault(sequelize, given, others);
	const salt = (await SaltRow.findByPk(SALT, { raw: true }))?.bytes ?? randomBytes(16);
	await SaltRow.upsert({ name: SALT, bytes: salt });
	const vault = new Vault(sequelize, keyFrom(given.phrase, salt), [given, ...others]);
	await vault.catchUp(given);
	return vault;
}
