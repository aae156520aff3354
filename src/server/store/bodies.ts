import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import zlib from 'node:zlib';

const STORED_CAP = 50_000_000;
const PLAIN_BELOW = 1024;
const compress = promisify(zlib.brotliCompress);
const decompress = promisify(zlib.brotliDecompress);
const QUICK = { params: { [zlib.constants.BROTLI_PARAM_QUALITY]: 1 } };

/** A body as it is kept beside a result: by its hash. `kept` is smaller than `size` where it was cut. */
export interface StoredBody {
	hash: string;
	size: number;
	kept: number;
}

export interface BodyRecord {
	hash: string;
	size: number;
	coding: string;
	bytes: Buffer;
}

export async function packBody(bytes: Uint8Array): Promise<{ stored: StoredBody; record: BodyRecord } | undefined> {
	if (bytes.length === 0) return undefined;
	const kept = Buffer.from(bytes.buffer, bytes.byteOffset, Math.min(bytes.length, STORED_CAP));
	const hash = createHash('sha256').update(kept).digest('hex');
	const plain = kept.length < PLAIN_BELOW;
	const record = {
		hash,
		size: kept.length,
		coding: plain ? 'raw' : 'br',
		bytes: plain ? kept : await compress(kept, QUICK)
	};
	return { stored: { hash, size: bytes.length, kept: kept.length }, record };
}

export const unpackBody = async (record: BodyRecord): Promise<Buffer> =>
	record.coding === 'br' ? decompress(record.bytes) : record.bytes;
