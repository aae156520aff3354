import { randomBytes } from 'node:crypto';

const XOP = 'http://www.w3.org/2004/08/xop/include';

/** An envelope that came alone, or with parts beside it (MTOM): references are filled in. */
export function unpacked(body: Buffer, type: string): string {
	const boundary = /boundary\s*=\s*"?([^";]+)"?/i.exec(type)?.[1];
	if (!/^multipart\/related/i.test(type) || !boundary) return (body ?? Buffer.alloc(0)).toString('utf8');
	const pieces = body
		.toString('latin1')
		.split(`--${boundary}`)
		.slice(1, -1)
		.map((piece) => {
			const at = piece.indexOf('\r\n\r\n');
			const head = piece.slice(0, at);
			const id = /content-id:\s*<([^>]*)>/i.exec(head)?.[1] ?? '';
			return { id, bytes: Buffer.from(piece.slice(at + 4).replace(/\r\n$/, ''), 'latin1') };
		});
	const [root, ...rest] = pieces;
	return (root?.bytes.toString('utf8') ?? '').replace(
		/<([\w.-]+:)?Include\b[^>]*href\s*=\s*["']cid:([^"']+)["'][^>]*(?:\/>|><\/[\w.-]+:Include>)/g,
		(_, _prefix, id: string) => rest.find((part) => part.id === decodeURIComponent(id))?.bytes.toString('base64') ?? ''
	);
}

/** The answer with its receipt as a part of its own (MTOM, XOP 1.0); undefined when it holds none. */
export function packed(envelope: string, type: string): { type: string; body: Buffer } | undefined {
	const found = /(<(?:[\w.-]+:)?receipt[^>]*>)([A-Za-z0-9+/=\s]+)(<\/(?:[\w.-]+:)?receipt>)/.exec(envelope);
	if (!found) return undefined;
	const boundary = `receipt-${randomBytes(8).toString('hex')}`;
	const id = `receipt-${randomBytes(4).toString('hex')}@reedmere.example`;
	const inside = envelope.replace(found[0], `${found[1]}<xop:Include xmlns:xop="${XOP}" href="cid:${id}"/>${found[3]}`);
	const plain = type.replace(/;.*$/, '');
	const body = Buffer.concat([
		Buffer.from(
			`--${boundary}\r\nContent-Type: application/xop+xml; charset=utf-8; type="${plain}"\r\nContent-ID: <envelope@reedmere.example>\r\n\r\n${inside}\r\n--${boundary}\r\nContent-Type: text/plain; charset=utf-8\r\nContent-ID: <${id}>\r\nContent-Disposition: attachment; filename="receipt.txt"\r\n\r\n`
		),
		Buffer.from(found[2]!, 'base64'),
		Buffer.from(`\r\n--${boundary}--\r\n`)
	]);
	const start = 'start="<envelope@reedmere.example>"';
	return {
		type: `multipart/related; type="application/xop+xml"; start-info="${plain}"; ${start}; boundary="${boundary}"`,
		body
	};
}
