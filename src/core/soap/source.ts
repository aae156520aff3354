import { isObject, parseJsonPlainly, writeJson } from '../model/json.ts';
import { utf8 } from '../values/index.ts';
import { xmlFileText } from './registry.ts';

/** The file beside a definition that says where it is from. */
export const SOURCE_FILE = 'source.json';

/** The file that says where a definition was fetched from. */
export const sourceOf = (address: string, connection: string): Uint8Array =>
	// who somebody is does not belong into a file
	utf8(
		`${writeJson({ address: address.replace(/\/\/[^/@]*@/, '//'), ...(connection ? { connection } : {}) }, '\t')}\n`
	);

/** Where a definition was fetched from; undefined when that is not known. */
export function readSource(bytes: Uint8Array | undefined): { address: string; connection: string } | undefined {
	try {
		const value: unknown = bytes && parseJsonPlainly(xmlFileText(bytes));
		if (!isObject(value) || typeof value.address !== 'string') return undefined;
		return { address: value.address, connection: typeof value.connection === 'string' ? value.connection : '' };
	} catch {
		return undefined;
	}
}
