import { HeronError, textOf } from '../errors.ts';
import { parseXml } from './tree.ts';
import { fileOfAddress, locationsIn, offersService, resolveLocation } from './wsdl/index.ts';

/** A file of a definition, as it was given. */
export interface GivenFile {
	path: string;
	bytes: Uint8Array;
}

/** Why something was not fetched. */
export const OTHER_HOST = 'it lies at another host, which was not asked';
const MOST_FILES = 500;
const MOST_BYTES = 50_000_000;

/**
 * Fetches a definition and all that it imports, each once.
 * @param namedIn the files that one names, as written
 * @param others whether hosts other than the first one's are asked as well; what lies there is listed as missing otherwise
 * @param get the bytes at an address; throws in words when they cannot be had
 * @returns the files by their paths below definitions/NAME, the definition first, and what could not be had
 * @throws HeronError definition.none when the first one cannot be had
 */
export async function gatherDefinition(
	address: string,
	folder: string,
	get: (address: string) => Promise<Uint8Array>,
	textOfBytes: (bytes: Uint8Array) => string,
	namedIn: (text: string) => string[] = locationsOf,
	others = false
): Promise<{ files: GivenFile[]; missing: { address: string; detail: string }[] }> {
	const files: GivenFile[] = [];
	const missing: { address: string; detail: string }[] = [];
	const queue = [{ address, path: `${folder}/${fileOfAddress(address)}` }];
	const seen = new Set([queue[0]!.path]);
	let size = 0;
	for (let next = queue.shift(); next; next = queue.shift()) {
		if (!others && new URL(next.address).origin !== new URL(address).origin) {
			missing.push({ address: next.address, detail: OTHER_HOST });
			continue;
		}
		let bytes: Uint8Array;
		try {
			bytes = await get(next.address);
		} catch (error) {
			if (files.length === 0) throw new HeronError('definition.none', { detail: textOf(error) }, { cause: error });
			missing.push({ address: next.address, detail: textOf(error) });
			continue;
		}
		size += bytes.length;
		if (files.length >= MOST_FILES || size > MOST_BYTES)
			throw new HeronError('definition.none', { detail: 'it imports more than 500 files, or 50 MB' });
		files.push({ path: next.path, bytes });
		for (const location of namedIn(textOfBytes(bytes))) {
			const path = resolveLocation(next.path, location);
			if (seen.has(path) || !URL.canParse(location, next.address)) continue;
			seen.add(path);
			queue.push({ address: new URL(location, next.address).href, path });
		}
	}
	return { files, missing };
}

/** What a file imports, as written; nothing when it cannot be read. */
export function locationsOf(text: string): string[] {
	try {
		return locationsIn(parseXml(text.replace(/^\uFEFF?(\s|<!--[\s\S]*?-->)*<\?xml[\s\S]*?\?>/, ''))).map(
			({ location }) => location
		);
	} catch {
		return [];
	}
}

/** The definitions among files: those that no other one imports. */
export function mainsAmong(files: { path: string; text: string }[]): string[] {
	const wsdls = files.filter(({ path }) => /\.wsdl$/i.test(path));
	const imported = new Set(
		wsdls.flatMap(({ path, text }) => locationsOf(text).map((location) => resolveLocation(path, location)))
	);
	const own = wsdls.map(({ path }) => path);
	const free = own.filter((path) => !imported.has(path));
	if (free.length > 0) return free;
	// all are imported, in a circle: the one that offers something is meant
	const offering = wsdls.filter(({ text }) => offersService(text)).map(({ path }) => path);
	return [...offering, ...own].slice(0, 1);
}
