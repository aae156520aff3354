import { HeronError } from '#core/errors.ts';
import type { GivenFile } from '#core/soap/index.ts';
import { unzipSync } from 'fflate';

const MOST_BYTES = 50_000_000;
const MOST_FILES = 2000;
const isZip = (bytes: Uint8Array): boolean =>
	bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;

/** Definitions and schemas among files that were given; a ZIP is taken apart. @throws HeronError definition.none */
export function unpackDefinitions(files: GivenFile[]): GivenFile[] {
	let size = 0;
	let count = 0;
	return files.flatMap((file) => {
		if (!isZip(file.bytes)) return [file];
		try {
			const inside = unzipSync(file.bytes, {
				filter({ name, originalSize }) {
					const wanted = /\.(wsdl|xsd|xml|json|ya?ml)$/i.test(name) && !/(^|\/)(\.[^./]|__MACOSX)/.test(name);
					if (wanted && ++count > MOST_FILES)
						throw new HeronError('definition.none', {
							detail: `it holds more than ${MOST_FILES} definitions and schemas`
						});
					if (wanted && (size += originalSize) > MOST_BYTES)
						throw new HeronError('definition.none', { detail: 'unpacked it has more than 50 MB' });
					return wanted;
				}
			});
			const found = Object.entries(inside).map(([path, bytes]) => ({ path: safe(path), bytes }));
			if (found.length === 0)
				throw new HeronError('definition.none', {
					detail: `${file.path} holds no definition: no .wsdl, .yaml or .json`
				});
			return found;
		} catch (cause) {
			if (cause instanceof HeronError) throw cause;
			throw new HeronError('definition.none', { detail: `${file.path} cannot be unpacked` }, { cause });
		}
	});
}

/** A path that stays below where it is put. */
const safe = (path: string): string =>
	path
		.split(/[\\/]+/)
		.filter((part) => part && part !== '.' && part !== '..' && !/^[a-z]:$/i.test(part))
		.join('/');
