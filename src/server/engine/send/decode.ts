import { Decompress } from 'fzstd';
import zlib from 'node:zlib';

export interface Decoded {
	body: Buffer;
	/** Set when the decoded body was cut at the cap. */
	cut: boolean;
	/** What could not be decoded, in words. */
	note?: string;
}

/** Content codings of a field value, in the order in which they have to be undone (RFC 9110 section 8.4). */
const codingsOf = (value: string): string[] =>
	value
		.split(',')
		.map((coding) => coding.trim().toLowerCase())
		.filter((coding) => coding && coding !== 'identity')
		.reverse();

type Unpacker = (options: { finishFlush?: number }) => NodeJS.ReadWriteStream & { destroy(): void };

function unpackerOf(coding: string, first: Buffer): Unpacker | undefined {
	if (coding === 'gzip' || coding === 'x-gzip') return zlib.createGunzip;
	if (coding === 'br') return zlib.createBrotliDecompress;
	// deflate should be zlib; some servers send it bare
	if (coding === 'deflate') return ((first[0] ?? 0) & 0x0f) === 8 ? zlib.createInflate : zlib.createInflateRaw;
	return undefined;
}

/** Undoes a coding. @param whole data that end early are an error, and else what came of them is given */
async function unzip(
	body: Buffer,
	unpacker: Unpacker,
	cap: number,
	whole: boolean
): Promise<{ body: Buffer; cut: boolean }> {
	const { Z_SYNC_FLUSH, BROTLI_OPERATION_FLUSH } = zlib.constants;
	const early = unpacker === zlib.createBrotliDecompress ? BROTLI_OPERATION_FLUSH : Z_SYNC_FLUSH;
	const stream = unpacker(whole ? {} : { finishFlush: early });
	const chunks: Buffer[] = [];
	let size = 0;
	stream.end(body);
	for await (const chunk of stream as AsyncIterable<Buffer>) {
		chunks.push(chunk);
		size += chunk.length;
		if (size > cap) {
			stream.destroy();
			break;
		}
	}
	return { body: Buffer.concat(chunks).subarray(0, cap), cut: size > cap };
}

function unzstd(body: Buffer, cap: number): { body: Buffer; cut: boolean } {
	const chunks: Buffer[] = [];
	let size = 0;
	const full = new Error('cap');
	try {
		const stream = new Decompress((chunk) => {
			chunks.push(Buffer.from(chunk));
			size += chunk.length;
			if (size > cap) throw full;
		});
		// in slices, so that a small body that unpacks to a huge one is stopped on the way
		for (let at = 0; at < body.length; at += 16_384)
			stream.push(body.subarray(at, at + 16_384), at + 16_384 >= body.length);
	} catch (error) {
		if (error !== full) throw error;
	}
	return { body: Buffer.concat(chunks).subarray(0, cap), cut: size > cap };
}

/** Undoes content codings, up to a size. A body that does not decode is given as it came, with a note. */
export async function decodeBody(raw: Buffer, codings: string, cap: number): Promise<Decoded> {
	let body = raw;
	let note: string | undefined;
	for (const coding of codingsOf(codings)) {
		if (body.length === 0) break;
		try {
			const unpacker = unpackerOf(coding, body);
			if (!unpacker && coding !== 'zstd')
				return { body, cut: false, note: `the content coding "${coding}" is not known: the body is shown as it came` };
			const packed = body;
			const out = unpacker
				? await unzip(packed, unpacker, cap, true).catch((error: NodeJS.ErrnoException) => {
						if (error.code !== 'Z_BUF_ERROR') throw error;
						note = `the body ends in the middle of its ${coding} data: what came of them is shown`;
						return unzip(packed, unpacker, cap, false);
					})
				: unzstd(packed, cap);
			body = out.body;
			if (out.cut) return { body, cut: true };
		} catch {
			return { body, cut: false, note: `the header says ${coding}, but the body is not: it is shown as it came` };
		}
	}
	return { body, cut: false, ...(note === undefined ? {} : { note }) };
}
