import { HeronError, textOf } from '#core/errors.ts';
import { createCipheriv, createDecipheriv, createHash, hkdfSync, randomBytes, scryptSync } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

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
export function seal(key: VaultKey, about: string, text: string): Buffer {
	const nonce = randomBytes(12);
	const cipher = createCipheriv('aes-256-gcm', key.bytes, nonce).setAAD(Buffer.from(about));
	const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
	return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

/** What was sealed for the same; undefined where the key does not open it. */
export function unseal(key: VaultKey, about: string, bytes: Buffer): string | undefined {
	try {
		const cipher = createDecipheriv('aes-256-gcm', key.bytes, bytes.subarray(0, 12))
			.setAAD(Buffer.from(about))
			.setAuthTag(bytes.subarray(12, 28));
		return Buffer.concat([cipher.update(bytes.subarray(28)), cipher.final()]).toString('utf8');
	} catch {
		return undefined;
	}
}
