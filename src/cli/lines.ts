import { createReadStream } from 'node:fs';

/**
 * Lines of a file of JSON, without those that are empty. Only a line feed ends one: what else is taken for the end of a line
 * (U+2028, U+2029) may stand in a text of JSON as it is (RFC 8259 section 7).
 * @param start the octet at which the first begins
 */
export async function* jsonLines(file: string, start = 0): AsyncGenerator<string> {
	let rest = '';
	for await (const chunk of createReadStream(file, { start, encoding: 'utf8' }) as AsyncIterable<string>) {
		// a long line comes in many pieces, and is put together once
		if (!chunk.includes('\n')) {
			rest += chunk;
			continue;
		}
		const lines = `${rest}${chunk}`.split('\n');
		rest = lines.pop()!;
		for (const line of lines) if (line.trim() !== '') yield line;
	}
	if (rest.trim() !== '') yield rest;
}
