/** A call as it went out, its secrets masked. */
export interface WrittenCall {
	method: string;
	url: string;
	headers: readonly (readonly [name: string, value: string])[];
	/** Empty for none. */
	body: string;
	/** The body is no text, and cannot stand in a command. */
	binary?: boolean;
}
/** The shell in whose quoting a command of curl is written. */
export type CurlShell = 'bash' | 'powershell';

/** What curl adds by itself, rightly. */
const BY_CURL = /^(content-length|connection|transfer-encoding)$/i;
/** What curl adds by itself, and was not sent. */
const ADDED = ['Accept', 'User-Agent'];
/** From so many bytes on curl asks first (Expect). */
const ASKS_FIRST = 1_000_000;

/** The variable of a shell that stands for a masked value: `‹avery.access_token›` becomes AVERY_ACCESS_TOKEN. */
const variableOf = (mask: string): string =>
	mask
		.replace(/([a-z\d])([A-Z])/g, '$1_$2')
		.replace(/\W+/g, '_')
		.replace(/^(\d)/, '_$1')
		.toUpperCase();

const MASK = /‹([\w.-]+)›|%E2%80%B9([\w.-]+)%E2%80%BA/g;

/** A word of a shell for a text; masked values in it become variables, and are gathered. */
function quoter(shell: CurlShell, wanted: Set<string>): (text: string) => string {
	return (text) => {
		const parts: { text: string; variable?: string }[] = [];
		let at = 0;
		for (const match of text.matchAll(MASK)) {
			const variable = variableOf(match[1] ?? match[2]!);
			wanted.add(variable);
			parts.push({ text: text.slice(at, match.index) }, { text: '', variable });
			at = match.index + match[0].length;
		}
		parts.push({ text: text.slice(at) });
		if (shell === 'powershell') {
			if (parts.length === 1) return `'${text.replace(/['‘’]/g, (quote) => quote + quote)}'`;
			const inner = parts.map(({ text: own, variable }) =>
				variable ? `\${env:${variable}}` : own.replace(/[`$"“”]/g, (c) => `\`${c}`)
			);
			return `"${inner.join('')}"`;
		}
		const words = parts
			.filter(({ text: own, variable }) => own !== '' || variable)
			.map(({ text: own, variable }) => (variable ? `"$${variable}"` : `'${own.replaceAll("'", "'\\''")}'`));
		return words.join('') || "''";
	};
}

/**
 * A command line of curl that sends the same call: its bytes but for `Connection` and the order in which curl writes what
 * it adds itself. Masked values are variables of the shell, which are named above it. PowerShell is meant from 7.3 on.
 */
export function writeCurl({ method, url, headers, body, binary }: WrittenCall, shell: CurlShell): string {
	const wanted = new Set<string>();
	const quote = quoter(shell, wanted);
	const sent = headers.filter(([name]) => !BY_CURL.test(name) && !name.startsWith(':'));
	const has = (name: string) => sent.some(([own]) => own.toLowerCase() === name.toLowerCase());
	const lines: string[] = [];
	if (method === 'HEAD') lines.push('--head');
	else if (method !== 'GET' || body !== '' || binary)
		lines.push(`--request ${/^[A-Z]+$/.test(method) ? method : quote(method)}`);
	if (/[[\]{}]/.test(url)) lines.push('--globoff');
	if (/\/\.\.?(\/|$|\?)/.test(url)) lines.push('--path-as-is');
	lines.push(quote(url));
	const host = URL.canParse(url) ? new URL(url).host : '';
	for (const [name, value] of sent) {
		if (/^host$/i.test(name) && value === host) continue;
		lines.push(`--header ${quote(value === '' ? `${name};` : `${name}: ${value}`)}`);
	}
	for (const name of ADDED) if (!has(name)) lines.push(`--header ${quote(`${name}:`)}`);
	if (has('Accept-Encoding')) lines.push('--compressed');
	if (body !== '' || binary) {
		if (!has('Content-Type')) lines.push(`--header ${quote('Content-Type:')}`);
		if (body.length > ASKS_FIRST || binary) lines.push(`--header ${quote('Expect:')}`);
		lines.push(binary ? `--data-binary ${quote('@body.bin')}` : `--data-raw ${quote(body)}`);
	}
	const joint = shell === 'powershell' ? ' `\n  ' : ' \\\n  ';
	const command = [shell === 'powershell' ? 'curl.exe' : 'curl', ...lines].join(joint);
	const notes = [
		...(wanted.size > 0 ? [`# wants ${[...wanted].join(', ')}`] : []),
		...(binary ? ['# body.bin holds the body, which is no text'] : [])
	];
	return [...notes, command].join('\n');
}
