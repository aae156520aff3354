import { lookUp } from '../model/lookup.ts';
import { HeronError } from '../errors.ts';
import { escapeForm } from '../values/index.ts';
import type { SentCall, SentPart } from './call.ts';
import { commandsIn } from './shell.ts';

/** So long a text may be. */
const MOST_TEXT = 5_000_000;

/** Options that take a value, by their short names. */
const SHORT: Record<string, string> = {
	X: 'request',
	H: 'header',
	d: 'data',
	F: 'form',
	u: 'user',
	b: 'cookie',
	A: 'user-agent',
	e: 'referer',
	T: 'upload-file',
	x: 'proxy',
	o: 'output',
	m: 'max-time',
	E: 'cert',
	c: 'cookie-jar',
	D: 'dump-header',
	w: 'write-out',
	r: 'range',
	C: 'continue-at',
	K: 'config',
	U: 'proxy-user',
	z: 'time-cond',
	Y: 'speed-limit',
	y: 'speed-time',
	t: 'telnet-option',
	Q: 'quote',
	P: 'ftp-port'
};
/** Options without a value, by their short names. */
const FLAGS: Record<string, string> = {
	G: 'get',
	I: 'head',
	k: 'insecure',
	L: 'location',
	g: 'globoff',
	s: 'silent',
	S: 'show-error',
	v: 'verbose',
	i: 'include',
	f: 'fail',
	N: 'no-buffer',
	O: 'remote-name',
	J: 'remote-header-name',
	'0': 'http1.0',
	'1': 'tlsv1',
	'2': 'sslv2',
	'3': 'sslv3',
	'4': 'ipv4',
	'6': 'ipv6',
	'#': 'progress-bar',
	q: 'disable',
	j: 'junk-session-cookies',
	n: 'netrc',
	a: 'append',
	p: 'proxytunnel',
	Z: 'parallel',
	':': 'next'
};
/** Long options without a value that change nothing of what is sent. */
const SILENT = new Set(
	'silent show-error verbose include fail fail-with-body fail-early no-buffer remote-name remote-name-all remote-header-name progress-bar disable compressed globoff path-as-is no-progress-meter ipv4 ipv6 tcp-nodelay no-keepalive styled-output create-dirs basic location http1.1 no-sessionid no-alpn parallel'.split(
		' '
	)
);
/** Long options with a value that change nothing of what is sent. */
const SILENT_VALUES = new Set(
	'output output-dir write-out cookie-jar dump-header stderr trace trace-ascii retry retry-delay retry-max-time keepalive-time max-redirs speed-limit speed-time limit-rate max-filesize connect-timeout expect100-timeout parallel-max create-file-mode'.split(
		' '
	)
);
/** What belongs to the connection here. */
const OF_CONNECTION: Record<string, string> = {
	insecure: 'the certificate is not looked at (-k): tls: { verify: false } of the connection does the same',
	proxy: 'a proxy belongs to the connection: proxy:',
	'proxy-user': 'the user of a proxy belongs to the connection: proxy:',
	cacert: 'an authority belongs to the connection: tls: { authorities: [file] }',
	capath: 'authorities belong to the connection: tls: { authorities: [file] }',
	cert: 'a client certificate is a credential of its own: make one, or set tls: { client: } of the connection',
	key: 'a client certificate is a credential of its own: make one, or set tls: { client: } of the connection',
	pass: 'the passphrase of a key belongs to the credential of the certificate',
	http2: 'the version of HTTP belongs to the connection: http: 2',
	'http2-prior-knowledge': 'the version of HTTP belongs to the connection: http: 2',
	'tlsv1.2': 'versions of TLS belong to the connection: tls: { min: 1.2 }',
	'tlsv1.3': 'versions of TLS belong to the connection: tls: { min: 1.3 }',
	'tls-max': 'versions of TLS belong to the connection: tls: { max: }',
	resolve: 'where a name leads to (--resolve) cannot be said here: use the address, and tls: { name: }',
	'connect-to': 'where a name leads to (--connect-to) cannot be said here',
	'unix-socket': 'a socket of the file system cannot be called',
	'location-trusted':
		'credentials that follow to other hosts belong to the connection: redirects: { keepCredentials: true }'
};
const VALUED = new Set(
	'data data-ascii data-raw data-binary data-urlencode url-query form form-string json user cookie user-agent referer upload-file request header url max-time oauth2-bearer aws-sigv4 range request-target variable proxy proxy-user cacert capath cert cert-type key key-type pass tls-max resolve connect-to unix-socket interface local-port dns-servers config netrc-file ciphers tls13-ciphers preproxy noproxy socks5 socks5-hostname socks4 proto proto-default alt-svc hsts'.split(
		' '
	)
);
for (const name of SILENT_VALUES) VALUED.add(name);
for (const name of Object.values(SHORT)) VALUED.add(name);

interface Draft {
	urls: string[];
	method: string;
	headers: [string, string][];
	/** Pieces of data in the order in which they stand. */
	data: string[];
	file: string;
	parts: SentPart[];
	json: boolean;
	get: boolean;
	head: boolean;
	digest: boolean;
	user: string | undefined;
	upload: string | undefined;
	query: string[];
	timeout: number | undefined;
	notes: string[];
}
const draft = (): Draft => ({
	...{ urls: [], method: '', headers: [], data: [], file: '', parts: [], json: false, get: false, head: false },
	...{ digest: false, user: undefined, upload: undefined, query: [], timeout: undefined, notes: [] }
});

/**
 * The calls that command lines of curl make: one for each address.
 * @throws HeronError exchange.quote, exchange.none
 */
export function readCurl(text: string): SentCall[] {
	if (text.length > MOST_TEXT) throw new HeronError('exchange.none', { detail: 'it is longer than 5 MB' });
	const commands = commandsIn(text.replace(/^\s*(?:\$|>)\s+(?=curl)/gim, ''));
	const calls = commands.flatMap((words) => {
		// what stands before may set variables, or be sudo and the like
		const at = words.findIndex((word) => /(^|[\\/])curl(\.exe)?$/i.test(word));
		return at < 0 ? [] : readWords(words.slice(at + 1));
	});
	if (calls.length === 0)
		throw new HeronError('exchange.none', { detail: 'there is no command curl with an address in it' });
	return calls;
}

function readWords(words: string[]): SentCall[] {
	const out: SentCall[] = [];
	let now = draft();
	const end = () => {
		out.push(...finish(now));
		now = draft();
	};
	for (let i = 0; i < words.length; i++) {
		const word = words[i]!;
		if (!word.startsWith('-') || word === '-') {
			now.urls.push(word);
			continue;
		}
		if (word.startsWith('--')) {
			const [, name = '', own] = /^--([^=]+)(?:=([\s\S]*))?$/.exec(word) ?? [];
			if (name === 'next') end();
			else if (VALUED.has(name)) take(now, name, own ?? words[++i] ?? '');
			else flag(now, name);
			continue;
		}
		// several short ones in a word; the last may have its value behind it
		for (let at = 1; at < word.length; at++) {
			const letter = word[at]!;
			const valued = lookUp(SHORT, letter);
			if (valued) {
				take(now, valued, word.slice(at + 1) || (words[++i] ?? ''));
				break;
			}
			const name = lookUp(FLAGS, letter);
			if (name === 'next') end();
			else if (name) flag(now, name);
			else now.notes.push(`-${letter} is not known, and was left out`);
		}
	}
	end();
	return out;
}

const belongs = (now: Draft, name: string): boolean => {
	const note = lookUp(OF_CONNECTION, name);
	if (note && !now.notes.includes(note)) now.notes.push(note);
	return note !== undefined;
};

function flag(now: Draft, name: string): void {
	if (name === 'get') now.get = true;
	else if (name === 'head') now.head = true;
	else if (name === 'digest') now.digest = true;
	else if (!SILENT.has(name) && !belongs(now, name)) now.notes.push(`--${name} was left out`);
}

const notBrought = (file: string): string => `the content of the file ${file} is not brought: write it in its place`;

/** Data of a file cannot be seen from here. */
function ofFile(now: Draft, value: string): boolean {
	if (!value.startsWith('@')) return false;
	now.file = value.slice(1);
	return true;
}

/** Data, or the file that holds it. */
function data(now: Draft, value: string): void {
	if (!ofFile(now, value)) now.data.push(value);
}

/** What options with a value say of a call. */
const TAKEN: Record<string, (now: Draft, value: string) => void> = {
	request: (now, value) => void (now.method = value.toUpperCase()),
	url: (now, value) => void now.urls.push(value),
	header,
	'user-agent': (now, value) => header(now, `User-Agent: ${value}`),
	referer: (now, value) => header(now, `Referer: ${value}`),
	range: (now, value) => header(now, `Range: bytes=${value}`),
	cookie(now, value) {
		if (value.includes('=')) header(now, `Cookie: ${value}`);
		else now.notes.push(`the cookies of the file ${value} are not brought`);
	},
	'oauth2-bearer': (now, value) => header(now, `Authorization: Bearer ${value}`),
	// line ends are left out of what a file holds, and of nothing else
	data,
	'data-ascii': data,
	'data-binary': data,
	'data-raw': (now, value) => void now.data.push(value),
	'data-urlencode': (now, value) => void now.data.push(encoded(now, value)),
	'url-query': (now, value) => void now.query.push(value.startsWith('+') ? value.slice(1) : encoded(now, value)),
	json(now, value) {
		now.json = true;
		// its pieces are one text, without a sign between them
		if (!ofFile(now, value)) now.data.push(`${now.data.pop() ?? ''}${value}`);
	},
	form(now, value) {
		const content = /^[^=]*="?<([^;"]*)/.exec(value)?.[1];
		if (content !== undefined) now.notes.push(notBrought(content));
		now.parts.push(part(value, true));
	},
	'form-string': (now, value) => void now.parts.push(part(value, false)),
	user: (now, value) => void (now.user = value),
	'upload-file': (now, value) => void (now.upload = value),
	'max-time': (now, value) => void (now.timeout = Math.round(Number(value) * 1000) || undefined)
};

function take(now: Draft, name: string, value: string): void {
	const taken = lookUp(TAKEN, name);
	if (taken) taken(now, value);
	else if (!SILENT_VALUES.has(name) && !belongs(now, name)) now.notes.push(`--${name} was left out`);
}

function header(now: Draft, line: string): void {
	if (line.startsWith('@')) return void now.notes.push(`the headers of the file ${line.slice(1)} are not brought`);
	// `Name;` is one without a value; `Name:` takes one away that would be added
	const [, empty] = /^([^:;]+);\s*$/.exec(line) ?? [];
	if (empty !== undefined) return void now.headers.push([empty.trim(), '']);
	const at = line.indexOf(':');
	const value = line.slice(at + 1).trim();
	if (at <= 0 || value === '') return;
	now.headers.push([line.slice(0, at).trim(), value]);
}

/** `content`, `=content`, `name=content`, `@file`, `name@file`. */
function encoded(now: Draft, value: string): string {
	const at = value.indexOf('=');
	const file = value.indexOf('@');
	if (file >= 0 && (at < 0 || file < at)) {
		now.notes.push(notBrought(value.slice(file + 1)));
		return value.slice(0, file) ? `${value.slice(0, file)}=` : '';
	}
	if (at < 0) return escapeForm(value);
	return at === 0 ? escapeForm(value.slice(1)) : `${value.slice(0, at)}=${escapeForm(value.slice(at + 1))}`;
}

/** `name=value;type=x;filename=y`, `name=@file`, and `name=<file`, of which the content is a text. */
function part(text: string, special: boolean): SentPart {
	const at = text.indexOf('=');
	const name = at < 0 ? text : text.slice(0, at);
	const given = at < 0 ? '' : text.slice(at + 1);
	if (!special) return { name, value: given };
	const [, value = '', rest = ''] = /^("(?:[^"\\]|\\.)*"|[^;]*)((?:;\s*[a-z]+=[\s\S]*)?)$/i.exec(given) ?? ['', given];
	const setting = (key: string): string | undefined => {
		const [, quoted, plain] = new RegExp(`;\\s*${key}=(?:"((?:[^"\\\\]|\\\\.)*)"|([^;]*))`, 'i').exec(rest) ?? [];
		return (quoted?.replace(/\\(.)/g, '$1') ?? plain?.trim()) || undefined;
	};
	const type = /;\s*type=/i.test(rest) ? /;\s*type=([^;]*(?:;\s*charset=[^;]*)?)/i.exec(rest)?.[1]?.trim() : undefined;
	const filename = setting('filename');
	const bare = /^".*"$/s.test(value) ? value.slice(1, -1).replace(/\\(.)/g, '$1') : value;
	const file = bare.startsWith('@');
	return {
		name,
		value: file ? bare.slice(1) : bare.startsWith('<') ? '' : bare,
		...(file ? { file: true } : {}),
		...(type ? { type } : {}),
		...(filename ? { filename } : {})
	};
}

function finish(now: Draft): SentCall[] {
	const has = (name: string) => now.headers.some(([own]) => own.toLowerCase() === name);
	const text = now.data.join('&');
	const filed = now.file !== '' || now.data.length > 0;
	if (now.json) {
		if (!has('content-type')) now.headers.push(['Content-Type', 'application/json']);
		if (!has('accept')) now.headers.push(['Accept', 'application/json']);
	} else if (filed && !now.get && !has('content-type'))
		now.headers.push(['Content-Type', 'application/x-www-form-urlencoded']);
	const [first = '', ...rest] = now.user?.split(':') ?? [];
	return now.urls.map((given): SentCall => {
		let url = /^[a-z][a-z\d+.-]*:\/\//i.test(given) ? given : `http://${given}`;
		const more = [...now.query, ...(now.get && text ? [text] : [])].join('&');
		if (more) {
			const [plain = '', fragment] = url.split('#');
			url = `${plain}${plain.includes('?') ? '&' : '?'}${more}${fragment === undefined ? '' : `#${fragment}`}`;
		}
		const method =
			now.method ||
			(now.head
				? 'HEAD'
				: now.upload !== undefined
					? 'PUT'
					: (filed && !now.get) || now.parts.length > 0
						? 'POST'
						: 'GET');
		const notes = [...now.notes];
		if (now.file && now.data.length > 0) notes.push(`the file ${now.file} and data beside it: only the file is sent`);
		if (now.get && now.file) notes.push(`the content of the file ${now.file} is not brought into the query`);
		const body: SentCall['body'] = now.get
			? undefined
			: now.parts.length > 0
				? { parts: now.parts }
				: now.upload !== undefined
					? { file: now.upload }
					: now.file
						? { file: now.file }
						: now.data.length > 0
							? { text }
							: undefined;
		return {
			method,
			url,
			headers: now.headers,
			...(body ? { body } : {}),
			...(now.user === undefined
				? {}
				: {
						user: { name: first, password: rest.join(':'), kind: now.digest ? ('digest' as const) : ('basic' as const) }
					}),
			...(now.timeout === undefined ? {} : { timeout: now.timeout }),
			notes
		};
	});
}
