import { HeronError } from '../errors.ts';
import { shortened } from '../model/shortened.ts';
import type { SentCall } from './call.ts';
import type { WrittenCall } from './write-curl.ts';

const LOCAL = /^(localhost|127(\.\d+){3}|\[::1\])(:\d+)?$/i;

/**
 * A request as it stands in a log or a document (RFC 9112): request line, header fields, an empty line, body. Where the
 * target is a path, `Host` says the rest; the machine itself is meant without TLS.
 * @throws HeronError exchange.none
 */
export function readMessage(text: string): SentCall[] {
	const [head = '', ...rest] = text.replace(/^\s+/, '').split(/\r?\n[ \t]*\r?\n/);
	const [first = '', ...lines] = head.split(/\r?\n/);
	const [, method = '', target = ''] = /^([!#$%&'*+.^_`|~\w-]+)\s+(\S+)(?:\s+HTTP\/[\d.]+)?\s*$/.exec(first) ?? [];
	if (!method)
		throw new HeronError('exchange.none', { detail: 'the first line is no request line: POST /path HTTP/1.1' });
	const headers = readFields(lines);
	const host = headers.find(([name]) => /^host$/i.test(name))?.[1] ?? '';
	if (target.startsWith('/') && !host)
		throw new HeronError('exchange.none', { detail: 'the target is a path, and there is no Host' });
	const url = target.startsWith('/') ? `${LOCAL.test(host) ? 'http' : 'https'}://${host}${target}` : target;
	if (!URL.canParse(url)) throw new HeronError('value.address', { address: url });
	const body = rest.join('\n\n').replace(/\s*$/, '');
	return [{ method, url, headers, ...(body ? { body: { text: body } } : {}), notes: [] }];
}

/** Header fields below the first line of a message (RFC 9112 section 5). @throws HeronError exchange.none with the line */
export function readFields(lines: readonly string[]): [string, string][] {
	const headers: [string, string][] = [];
	for (const [index, line] of lines.entries()) {
		// what is folded goes on (section 5.2)
		const before = headers.at(-1);
		if (/^[ \t]/.test(line) && before) {
			before[1] = `${before[1]} ${line.trim()}`;
			continue;
		}
		const [, name = '', value = ''] = /^([!#$%&'*+.^_`|~\w-]+):[ \t]*(.*?)\s*$/.exec(line) ?? [];
		if (name) headers.push([name, value]);
		else if (line.trim() !== '')
			throw new HeronError('exchange.none', { detail: `line ${index + 2} is no header field: ${shortened(line, 60)}` });
	}
	return headers;
}

const NO_TEXT = '(bytes that are no text)';
const fields = (headers: WrittenCall['headers']): string[] => headers.map(([name, value]) => `${name}: ${value}`);

/** A request as a message of HTTP/1.1 (RFC 9112 section 2.1), its lines ended by LF; the target is a path, and Host says where. */
export function writeMessage({ method, url, headers, body, binary }: WrittenCall): string {
	const at = URL.canParse(url) ? new URL(url) : undefined;
	const path = url.replace(/#.*$/s, '').replace(/^[a-z][\w+.-]*:\/\/[^/?]*/i, '');
	// a masked secret is read better than written in percent
	const target = path.replace(/%E2%80%B9([\w.-]+)%E2%80%BA/g, '‹$1›');
	const named = headers.some(([name]) => name.toLowerCase() === 'host');
	return [
		`${method} ${target.startsWith('/') ? target : `/${target}`} HTTP/1.1`,
		...(at && !named ? [`Host: ${at.host}`] : []),
		...fields(headers),
		'',
		binary ? NO_TEXT : body
	].join('\n');
}

/** A reply as a message; its body as it was read, content codings undone. */
export const writeReplyMessage = (reply: {
	version: string;
	status: number;
	reason: string;
	headers: WrittenCall['headers'];
	/** Undefined where it is no text. */
	body: string | undefined;
}): string =>
	[
		`${reply.version} ${reply.status} ${reply.reason}`.trimEnd(),
		...fields(reply.headers),
		'',
		reply.body ?? NO_TEXT
	].join('\n');
