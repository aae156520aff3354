import { HeronError, textOf } from '#core/errors.ts';
import { createCipheriv, createDecipheriv, createHash, hkdfSync, randomBytes, scryptSync } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Sequelize } from 'sequelize';
import { RevealRow, SaltRow, SealedRow } from './tables/index.ts';

/** The key that the vault is locked with. */
export interface VaultKey {
	id: string;
	bytes: Buffer;
	/** The phrase that it was made of. */
	phrase?: string;
}

const KEY_BYTES = 32;

// of databases from before they had salts of their own
const FIRST_SALT = 'loyal-heron vault';
const SALT = 'vault';

/**
 * A key of 32 bytes in hexadecimal or base64, or a long enough phrase, which the salt of a database makes into its own.
 * @throws HeronError vault.keyFile
 */
export function keyFrom(text: string, salt: Buffer | string = FIRST_SALT): VaultKey {
	const given = text.trim();
	let raw: Buffer | undefined;
	let phrase: string | undefined;
	if (/^[0-9a-f]{64}$/i.test(given)) raw = Buffer.from(given, 'hex');
	else if (/^[A-Za-z0-9+/]{43}=$/.test(given)) raw = Buffer.from(given, 'base64');
	else if (given.length >= 16) {
		phrase = given;
		raw = scryptSync(given, salt, KEY_BYTES, { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 2 ** 20 });
	}
	if (raw?.length !== KEY_BYTES)
		throw new HeronError('vault.keyFile', {
			detail: 'it is 32 bytes in hexadecimal or base64, or a phrase of at least 16 letters'
		});
	const bytes = Buffer.from(hkdfSync('sha256', raw, '', 'loyal-heron vault 1', KEY_BYTES));
	const id = createHash('sha256').update('id').update(bytes).digest('hex').slice(0, 12);
	return { bytes, id, ...(phrase === undefined ? {} : { phrase }) };
}

/** The key of a file that only its owner can read; made when it is not there. @throws HeronError vault.keyFile */
export function keyOfFile(file: string): VaultKey {
	try {
		if (!existsSync(file)) {
			mkdirSync(dirname(file), { recursive: true });
			writeFileSync(file, `${randomBytes(KEY_BYTES).toString('hex')}\n`, { mode: 0o600, flag: 'wx' });
		}
		if ((statSync(file).mode & 0o077) !== 0) {
			chmodSync(file, 0o600);
			console.error(`the key of the vault, ${file}, could be read by others: its permissions are tightened`);
		}
		return keyFrom(readFileSync(file, 'utf8'));
	} catch (cause) {
		if (cause instanceof HeronError) throw cause;
		throw new HeronError('vault.keyFile', { detail: textOf(cause) }, { cause });
	}
}

/** Where a new key lies until it has taken the old one's place. */
export const newKeyFile = (file: string): string => `${file}.next`;

/** AES-256-GCM: nonce, tag, ciphertext. What it is for is authenticated with it, so that rows cannot be swapped. */
function seal(key: VaultKey, about: string, text: string): Buffer {
	const nonce = randomBytes(12);
	const cipher = createCipheriv('aes-256-gcm', key.bytes, nonce).setAAD(Buffer.from(about));
	const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
	return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

function unseal(key: VaultKey, about: string, bytes: Buffer): string | undefined {
	try {
		const cipher = createDecipheriv('aes-256-gcm', key.bytes, bytes.subarray(0, 12))
			.setAAD(Buffer.from(about))
			.setAuthTag(bytes.subarray(12, 28));
		return Buffer.concat([cipher.update(bytes.subarray(28)), cipher.final()]).toString('utf8');
	} catch {
		return undefined;
	}
}

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

/** What must not be read by whoever reads the database. */
export interface Vault {
	write(project: string, kind: SealedKind, environment: string, name: string, text: string): Promise<void>;
	remove(project: string, kind: SealedKind, environment: string, name: string): Promise<void>;
	/** What there is, without values. */
	list(project: string, kind: SealedKind): Promise<SealedFacts[]>;
	/** Values that the key opens, of one environment over those of all. */
	read(project: string, kind: SealedKind, environment: string): Promise<Record<string, string>>;
	/** One value; undefined where there is none, or none that the key opens. */
	readOne(project: string, kind: SealedKind, environment: string, name: string): Promise<string | undefined>;
	/** A value for somebody's eyes; that it was shown is noted. @throws HeronError request.notFound, vault.key */
	reveal(project: string, environment: string, name: string): Promise<string>;
	/** Notes that a value was shown. */
	noteShown(project: string, environment: string, name: string): Promise<void>;
	reveals(project: string): Promise<{ environment: string; name: string; at: number }[]>;
	/** Takes out all that a project has there. */
	clear(project: string): Promise<void>;
	/** Seals everything with another key; `left` could not be read with the one so far, and stays as it is. */
	rekey(next: VaultKey): Promise<{ sealed: number; left: number }>;
}

/**
 * The vault of an open database.
 * @param others keys that open what was sealed before; a change of keys that was interrupted leaves some under each
 */
export async function createVault(
	sequelize: Sequelize,
	given: VaultKey,
	others: readonly VaultKey[] = []
): Promise<Vault> {
	let key = given;
	const keys = [given, ...others];
	if (given.phrase !== undefined) {
		const salt = (await SaltRow.findByPk(SALT, { raw: true }))?.bytes ?? randomBytes(16);
		await SaltRow.upsert({ name: SALT, bytes: salt });
		key = keyFrom(given.phrase, salt);
		keys.push(key);
	}
	const about = (project: string, kind: string, environment: string, name: string) =>
		JSON.stringify([project, kind, environment, name]);
	const open = (row: SealedRow): string | undefined =>
		keys
			.filter((one) => one.id === row.keyId)
			.map((one) => unseal(one, about(row.project, row.kind, row.environment, row.name), row.bytes))[0];
	const noteShown = async (project: string, environment: string, name: string): Promise<void> => {
		await RevealRow.create({ project, environment, name, at: Date.now() });
	};
	const sealAnew = (next: VaultKey, salt?: Buffer) =>
		sequelize.transaction(async (transaction) => {
			const rows = await SealedRow.findAll({ raw: true, transaction });
			let sealed = 0;
			for (const row of rows) {
				const text = open(row);
				if (text === undefined) continue;
				sealed++;
				const { project, kind, environment, name } = row;
				await SealedRow.update(
					{ keyId: next.id, bytes: seal(next, about(project, kind, environment, name), text) },
					{ where: { project, kind, environment, name }, silent: true, transaction }
				);
			}
			if (salt) await SaltRow.upsert({ name: SALT, bytes: salt }, { transaction });
			return { sealed, left: rows.length - sealed };
		});
	// what was sealed before the database had a salt is sealed anew
	if (key !== given && (await SealedRow.count({ where: { keyId: given.id } })) > 0) await sealAnew(key);
	return {
		async clear(project) {
			await SealedRow.destroy({ where: { project } });
		},
		async rekey(next) {
			const salt = randomBytes(16);
			const salted = next.phrase === undefined ? next : keyFrom(next.phrase, salt);
			const done = await sealAnew(salted, next.phrase === undefined ? undefined : salt);
			keys.push(salted);
			key = salted;
			return done;
		},
		async write(project, kind, environment, name, text) {
			await SealedRow.upsert({
				project,
				kind,
				environment,
				name,
				keyId: key.id,
				bytes: seal(key, about(project, kind, environment, name), text)
			});
		},
		async remove(project, kind, environment, name) {
			await SealedRow.destroy({ where: { project, kind, environment, name } });
		},
		async list(project, kind) {
			const rows = await SealedRow.findAll({ where: { project, kind }, order: ['name', 'environment'], raw: true });
			return rows.map((row) => ({
				environment: row.environment,
				name: row.name,
				updatedAt: new Date(row.updatedAt).getTime(),
				readable: open(row) !== undefined
			}));
		},
		async read(project, kind, environment) {
			const rows = await SealedRow.findAll({
				where: { project, kind, environment: [...new Set(['', environment])] },
				order: ['environment'],
				raw: true
			});
			const values: Record<string, string> = {};
			for (const row of rows) {
				const value = open(row);
				if (value !== undefined) values[row.name] = value;
			}
			return values;
		},
		async readOne(project, kind, environment, name) {
			const row = await SealedRow.findOne({ where: { project, kind, environment, name }, raw: true });
			return row ? open(row) : undefined;
		},
		noteShown,
		async reveal(project, environment, name) {
			const row = await SealedRow.findOne({ where: { project, kind: 'secret', environment, name }, raw: true });
			if (!row) throw new HeronError('request.notFound', { what: `the secret ${name}` });
			const value = open(row);
			if (value === undefined) throw new HeronError('vault.key', { count: '1 secret' });
			await noteShown(project, environment, name);
			return value;
		},
		async reveals(project) {
			const rows = await RevealRow.findAll({ where: { project }, order: [['at', 'DESC']], limit: 100, raw: true });
			return rows.map(({ environment, name, at }) => ({ environment, name, at }));
		}
	};
}
