import { headerValue, headerValues, type HeaderList } from '../model/reply.ts';
import { showDuration } from '../model/units.ts';

/** What a header field means, in plain words. */
export interface HeaderNote {
	/** Small letters, as in the list of notes; the header may be missing. */
	name: string;
	topic: 'caching' | 'cross-origin' | 'security' | 'limits' | 'deprecation' | 'content';
	text: string;
	/** It asks for a look. */
	attention?: boolean;
}

/** What a header field of an answer is looked at with. */
export interface NoteContext {
	secure: boolean;
	method: string;
	status: number;
	/** Milliseconds since 1970. */
	now: number;
}

const seconds = (text: string | undefined): string => (text ? showDuration(Number(text) * 1000) : '');
const until = (text: string, now: number): string => {
	const at = /^@?\d{9,}$/.test(text) ? Number(text.replace('@', '')) * 1000 : Date.parse(text);
	if (Number.isNaN(at)) return text;
	const days = Math.round((at - now) / 86_400_000);
	const day = new Date(at).toISOString().slice(0, 10);
	return days < 0 ? `${day}, ${-days} d ago` : `${day}, in ${days} d`;
};

/** A reply that is looked at, and where what is found is noted. */
interface Looked extends NoteContext {
	headers: HeaderList;
	get(name: string): string | undefined;
	add(name: string, topic: HeaderNote['topic'], text: string, attention?: boolean): void;
}

/** How long an answer may be kept (RFC 9110 and 9111). */
function caching({ get, add, method, status }: Looked): void {
	const control = get('cache-control');
	if (control !== undefined) {
		const directive = (name: string) =>
			new RegExp(`(?:^|,)\\s*${name}(?:\\s*=\\s*"?(\\d+)"?)?\\s*(?:,|$)`, 'i').exec(control);
		const age = directive('max-age')?.[1];
		const words = [
			directive('no-store') && 'nobody may keep this answer',
			directive('no-cache') && 'it may be kept, and is asked for again before it is used',
			directive('private') && 'only the caller’s own cache may keep it',
			directive('public') && 'any cache may keep it',
			age !== undefined && (age === '0' ? 'it is stale at once' : `it is fresh for ${seconds(age)}`),
			directive('must-revalidate') && 'stale it is not used'
		].filter(Boolean);
		add('cache-control', 'caching', words.join('; ') || 'how long it may be kept');
		if (directive('public') && (get('set-cookie') !== undefined || /authorization/i.test(get('vary') ?? '')))
			add('cache-control', 'caching', 'any cache may keep an answer that sets a cookie', true);
	} else if (status === 200 && method === 'GET' && get('etag') === undefined && get('last-modified') === undefined)
		add('cache-control', 'caching', 'not there: caches guess how long they may keep it');
	if (get('etag'))
		add(
			'etag',
			'caching',
			`${get('etag')!.startsWith('W/') ? 'a weak' : 'a'} name of this version: If-None-Match asks whether it changed, If-Match guards a change`
		);
	if (get('age')) add('age', 'caching', `it comes from a cache, ${seconds(get('age'))} old`);
	if (get('vary'))
		add(
			'vary',
			'caching',
			get('vary') === '*' ? 'every answer may differ: it is not to be kept' : `the answer depends on ${get('vary')}`
		);
}

/** Which pages of other origins may read it (the Fetch standard). */
function crossOrigin({ get, add }: Looked): void {
	const origin = get('access-control-allow-origin');
	if (origin !== undefined) {
		const credentials = get('access-control-allow-credentials') === 'true';
		if (origin === '*' && credentials)
			add('access-control-allow-origin', 'cross-origin', 'any page, and with credentials: browsers refuse that', true);
		else
			add(
				'access-control-allow-origin',
				'cross-origin',
				origin === '*'
					? 'pages of any origin may read it'
					: `pages of ${origin} may read it${credentials ? ', with the user’s credentials' : ''}`
			);
		if (origin !== '*' && origin !== 'null' && !/\borigin\b/i.test(get('vary') ?? ''))
			add('vary', 'cross-origin', 'does not name Origin, though the answer depends on it: caches mix origins up', true);
	}
}

/** What is missing of what protects its readers (RFC 6797 and 6265). */
function security({ get, add, headers, secure }: Looked): void {
	if (secure && get('strict-transport-security') === undefined)
		add('strict-transport-security', 'security', 'not there: browsers may call this host without TLS', true);
	const hsts = get('strict-transport-security');
	if (hsts !== undefined)
		add(
			'strict-transport-security',
			'security',
			`browsers use TLS alone for ${seconds(/max-age="?(\d+)/i.exec(hsts)?.[1]) || 'a time'}`
		);
	if (get('content-type') && get('x-content-type-options')?.toLowerCase() !== 'nosniff')
		add('x-content-type-options', 'security', 'not nosniff: browsers may take the body for another type');
	for (const line of headerValues(headers, 'set-cookie')) {
		const name = line.split('=')[0]!.trim();
		const lacks = [
			!/;\s*httponly/i.test(line) && 'HttpOnly (scripts can read it)',
			secure && !/;\s*secure/i.test(line) && 'Secure (it goes out without TLS too)',
			!/;\s*samesite/i.test(line) && 'SameSite'
		].filter(Boolean);
		if (lacks.length > 0) add('set-cookie', 'security', `${name} is without ${lacks.join(', ')}`, true);
	}
	for (const name of ['server', 'x-powered-by'])
		if (/\d/.test(get(name) ?? '')) add(name, 'security', 'tells the version of the software', true);
}

/** How many calls are left, and when to ask again. */
function limits({ get, add }: Looked): void {
	const left = get('ratelimit-remaining') ?? get('x-ratelimit-remaining');
	const limit = get('ratelimit-limit') ?? get('x-ratelimit-limit');
	if (left !== undefined)
		add(
			'ratelimit-remaining',
			'limits',
			`${left}${limit ? ` of ${limit.split(',')[0]}` : ''} calls are left`,
			Number(left) === 0
		);
	const rate = get('ratelimit');
	if (rate !== undefined)
		add(
			'ratelimit',
			'limits',
			`${/\br=(\d+)/.exec(rate)?.[1] ?? '?'} calls are left for ${seconds(/\bt=(\d+)/.exec(rate)?.[1]) || 'a time'}`
		);
	const after = get('retry-after');
	if (after !== undefined)
		add('retry-after', 'limits', `ask again ${/^\d+$/.test(after) ? `in ${seconds(after)}` : `after ${after}`}`, true);
}

/** That it is not to be used any more (RFC 9745 and 8594). */
function ending({ get, add, now }: Looked): void {
	const deprecated = get('deprecation');
	if (deprecated !== undefined && deprecated !== 'false')
		add(
			'deprecation',
			'deprecation',
			`it is not to be used any more${deprecated === 'true' ? '' : `, since ${until(deprecated, now)}`}`,
			true
		);
	const sunset = get('sunset');
	if (sunset !== undefined) add('sunset', 'deprecation', `it goes away on ${until(sunset, now)}`, true);
	const warning = get('warning');
	if (warning !== undefined) add('warning', 'deprecation', warning, true);
}

/** What of its content is not said. */
function content({ get, add, method, status }: Looked): void {
	if (get('content-type') === undefined && status !== 204 && status !== 304 && method !== 'HEAD')
		add('content-type', 'content', 'not there: whoever reads it has to guess what it is', true);
	const location = get('location');
	if (status === 201 && location === undefined)
		add('location', 'content', 'not there: what was made is not named (RFC 9110 asks for it in words only)');
	if (location !== undefined)
		add('location', 'content', status === 201 ? 'where what was made stands' : 'where to go on');
}

const TOPICS = [caching, crossOrigin, security, limits, ending, content];

/** What the header fields of a reply say about caching, other origins, security, limits and its end (RFC 9110, 9111, 9745, 8594, 6797). */
export function headerNotes(headers: HeaderList, context: NoteContext): HeaderNote[] {
	const notes: HeaderNote[] = [];
	const looked: Looked = {
		...context,
		headers,
		get: (name) => headerValue(headers, name),
		add: (name, topic, text, attention = false) =>
			void notes.push({ name, topic, text, ...(attention ? { attention } : {}) })
	};
	for (const look of TOPICS) look(looked);
	return notes;
}
