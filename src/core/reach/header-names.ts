import { editDistance } from '../messages.ts';
import type { PreparedRequest } from '../model/exchange.ts';
import type { JsonObject } from '../model/json.ts';
import { mediaType, type Reply } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
import { decodeText } from '../values/index.ts';
import { settingFix } from './fixes.ts';
import { found, type Fix, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';

const HEADERS = [
	...[
		'Authorization',
		'Accept',
		'Accept-Language',
		'Content-Type',
		'Content-Length',
		'User-Agent',
		'Cookie',
		'Origin',
		'Referer'
	],
	...[
		'X-API-Key',
		'X-Request-ID',
		'X-Correlation-ID',
		'If-Match',
		'If-None-Match',
		'Prefer',
		'Signature',
		'Signature-Input',
		'Date',
		'Digest',
		'Content-Digest',
		'SOAPAction'
	]
];

/** Swapped, lost, added or changed letters between two names: whether it is one or two slips, but not none. */
function isTypo(a: string, b: string): boolean {
	const apart = editDistance(a.toLowerCase(), b.toLowerCase());
	// short names are one slip away from half the alphabet
	return apart === 1 || (apart === 2 && Math.min(a.length, b.length) >= 8);
}

/** A header that the other side misses, by what it says. */
function missingHeader(reply: Reply): { header: string; said: string } | undefined {
	if (reply.status < 400 || reply.status > 499) return undefined;
	const { type } = mediaType(reply.headers);
	if (type === 'text/html') return undefined;
	const text = decodeText(reply.body.subarray(0, 4000)).text;
	const name = '["“\'`]?([A-Za-z][A-Za-z0-9]*(?:-[A-Za-z0-9]+)+|Authorization|Accept|Date)["”\'`]?';
	const patterns = [
		new RegExp(`(?:missing|without|lacks|no|required?)[^.\\n]{0,24}?\\bheader(?: field)?[: ]+${name}`, 'i'),
		new RegExp(
			`\\bheader(?: field)? ${name}[^.\\n]{0,16}?(?:missing|required|absent|not (?:set|found|given|present))`,
			'i'
		),
		new RegExp(
			`${name} (?:request )?header[^.\\n]{0,16}?(?:missing|required|absent|not (?:set|found|given|present))`,
			'i'
		),
		new RegExp(`(?:missing|requires?)[: ]+(?:the )?${name}(?: (?:request )?header)`, 'i')
	];
	for (const pattern of patterns) {
		const match = pattern.exec(text);
		if (match) return { header: match[1]!, said: shortened(match[0].replace(/\s+/g, ' '), 120) };
	}
	return undefined;
}

const where = (target: ReachTarget, header: string): 'connection' | 'credential' =>
	Object.keys((target.connection?.raw.headers ?? {}) as object).some(
		(name) => name.toLowerCase() === header.toLowerCase()
	)
		? 'connection'
		: 'credential';

/** Renames a header where it is written: among the connection's own, or where a credential puts it. */
function renameFix(target: ReachTarget, sent: string, wanted: string, credential: JsonObject | undefined): Fix[] {
	if (!target.connection) return [];
	const label = `Write it ${wanted}`;
	const rename = (map: JsonObject) =>
		Object.fromEntries(
			Object.entries(map).map(([name, value]) => [name.toLowerCase() === sent.toLowerCase() ? wanted : name, value])
		);
	const { headers } = target.connection.raw;
	if (
		where(target, sent) === 'connection' &&
		typeof headers === 'object' &&
		headers !== null &&
		!Array.isArray(headers)
	)
		return settingFix(target, label, ['headers'], rename(headers as JsonObject));
	if (!credential) return [];
	const file = `credentials/${target.credential.name}.yaml`;
	if (credential.kind === 'api-key') return [{ label, edits: [{ file, path: ['name'], value: wanted }] }];
	const put = (credential.put as JsonObject | undefined)?.header;
	if (typeof put === 'object' && put !== null && !Array.isArray(put))
		return [{ label, edits: [{ file, path: ['put', 'header'], value: rename(put as JsonObject) }] }];
	return [];
}

/** A header that is sent under a name that nobody knows but that is close to a known one. */
export function judgeHeaderNames(
	target: ReachTarget,
	request: PreparedRequest,
	reply: Reply,
	credential: JsonObject | undefined,
	ms: number
): Stage | undefined {
	const missing = missingHeader(reply);
	const ours = request.headers.filter((_, index) => request.origins[index] !== 'added').map(([name]) => name);
	const wanted = missing ? [missing.header] : HEADERS;
	for (const sent of ours) {
		if (!missing && HEADERS.some((name) => name.toLowerCase() === sent.toLowerCase())) continue;
		const right = wanted.find((name) => isTypo(sent, name));
		if (right)
			return found(
				'auth.headerSlip',
				{ sent, wanted: right },
				{
					ms,
					facts: missing ? [['the server says', missing.said]] : [],
					fixes: renameFix(target, sent, right, credential)
				}
			);
	}
	if (!missing || ours.some((name) => name.toLowerCase() === missing.header.toLowerCase())) return undefined;
	const headers = (target.connection?.raw.headers ?? {}) as JsonObject;
	const fixes = Array.isArray(headers)
		? []
		: settingFix(target, `Add the header ${missing.header}`, ['headers'], { ...headers, [missing.header]: '' });
	return found('auth.missingHeader', { header: missing.header, said: missing.said }, { ms, fixes });
}
