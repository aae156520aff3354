/** Text parts by name, read as RFC 7578 says, by nothing of ours. */
export function multipart(body: Uint8Array, headers: [string, string][]): Map<string, string> {
	const type = headers.find(([name]) => name.toLowerCase() === 'content-type')![1];
	const boundary = `--${/boundary=([^;]+)/.exec(type)![1]!}`;
	const text = Buffer.from(body).toString('latin1');
	const parts = new Map<string, string>();
	for (const part of text.split(boundary).slice(1, -1)) {
		const at = part.indexOf('\r\n\r\n');
		const name = /name="([^"]*)"/.exec(part.slice(0, at))![1]!;
		parts.set(name, Buffer.from(part.slice(at + 4, -2), 'latin1').toString('utf8'));
	}
	return parts;
}
