import { didYouMean, editDistance } from '../messages.ts';
import { isObject, type Json } from '../model/json.ts';
import { isJsonType, isXmlType } from '../model/reply.ts';
import type { Finding, StepRule } from './kind.ts';
import { jsonFault } from './json-text.ts';
import { changed, entriesOf } from './params.ts';
import { looksSecret, secretInQuery, TOKEN } from './secret.ts';
import { xmlFault } from './xml-text.ts';
import { functionNames, unknownCallsIn } from '../values/index.ts';

// fields of requests that testers write by hand: RFC 9110, 9111, 6265, 6454, 7240, 9421, 9530, and common practice
const HEADERS = [
	'Accept',
	'Accept-Charset',
	'Accept-Encoding',
	'Accept-Language',
	'Accept-Patch',
	'Access-Control-Request-Headers',
	'Access-Control-Request-Method',
	'Authorization',
	'Cache-Control',
	'Connection',
	'Content-Digest',
	'Content-Disposition',
	'Content-Encoding',
	'Content-Language',
	'Content-Length',
	'Content-Location',
	'Content-MD5',
	'Content-Type',
	'Cookie',
	'Date',
	'Digest',
	'Expect',
	'Forwarded',
	'From',
	'Host',
	'Idempotency-Key',
	'If-Match',
	'If-Modified-Since',
	'If-None-Match',
	'If-Range',
	'If-Unmodified-Since',
	'Max-Forwards',
	'Origin',
	'Pragma',
	'Prefer',
	'Proxy-Authorization',
	'Range',
	'Referer',
	'Signature',
	'Signature-Input',
	'SOAPAction',
	'TE',
	'Traceparent',
	'Tracestate',
	'Trailer',
	'Transfer-Encoding',
	'Upgrade',
	'User-Agent',
	'Via',
	'X-API-Key',
	'X-Correlation-ID',
	'X-CSRF-Token',
	'X-Forwarded-For',
	'X-Forwarded-Host',
	'X-Forwarded-Proto',
	'X-Request-ID'
];
const known = new Set(HEADERS.map((name) => name.toLowerCase()));

const computed = (value: unknown): boolean => typeof value === 'string' && value.includes('{$');
/** The path of a target without scheme, host, query and expressions. */
const pathOf = (target: string): string => target.replace(/^[a-z][a-z0-9+.-]*:\/\//i, '').split('?')[0]!;

/** The end of a variable's name that says the same. */
const SECRET_VARIABLE = /(pass(word|phrase)|pwd|secret|api[-_]?key|(access|refresh)[-_]?token|private[-_]?key)$/i;

/** Variables whose names say that they are secrets, and whose values stand in plain. */
export function* plainVariables(
	variables: unknown,
	at: (string | number)[]
): Generator<{ at: (string | number)[]; name: string }> {
	for (const [name, value] of Object.entries(isObject(variables) ? variables : {}))
		if (SECRET_VARIABLE.test(name) && typeof value === 'string' && value.length > 3 && !computed(value))
			yield { at: [...at, name], name };
}

/** Names with literal values that look like secrets, in plain data; test vectors are made of such. */
export function* plainSecrets(
	value: Json,
	at: (string | number)[]
): Generator<{ at: (string | number)[]; name: string }> {
	if (Array.isArray(value)) for (const [index, item] of value.entries()) yield* plainSecrets(item, [...at, index]);
	else if (isObject(value))
		for (const [name, item] of Object.entries(value)) {
			if (name === 'vector') continue;
			const text = typeof item === 'string' && !computed(item) ? item : '';
			if (looksSecret('body', name, text)) yield { at: [...at, name], name };
			else yield* plainSecrets(item as Json, [...at, name]);
		}
}

/** All rules that look at one step. */
export const stepRules: readonly StepRule[] = [
	{
		code: 'lint.json',
		doc: 'A JSON body that is not JSON, at its line; a comma that is missing or too many is mended.',
		example: { send: 'POST /a', body: { json: '{ "a": {$env.n}\n  "b": 2 }' } },
		find({ send: { body } }) {
			if (body?.kind !== 'json' || typeof body.value !== 'string' || !/^\s*[[{]/.test(body.value)) return [];
			// a text that is one expression is computed
			if (/^\s*\{\$[^{}]*\}\s*$/.test(body.value)) return [];
			const fault = jsonFault(body.value);
			if (!fault) return [];
			const { message, line, column, fixed } = fault;
			const fix = fixed && { label: fixed.label, edits: [{ path: ['body', 'json'], value: fixed.text }] };
			return [{ at: ['body', 'json'], values: { line, column, detail: message }, ...(fix ? { fix } : {}) }];
		}
	},
	{
		code: 'lint.xml',
		doc: 'An XML body that is not well-formed, at its line.',
		example: { send: 'POST /a', body: { xml: '<a>\n  <b>{$env.n}</c>\n</a>' } },
		find({ send: { body } }) {
			if (body?.kind !== 'xml' || typeof body.value !== 'string') return [];
			// a text that is one expression is computed
			if (/^\s*\{\$[^{}]*\}\s*$/.test(body.value) || body.value.trim() === '') return [];
			const fault = xmlFault(body.value);
			if (!fault) return [];
			const { message, line, column, fixed } = fault;
			const fix = fixed && { label: fixed.label, edits: [{ path: ['body', 'xml'], value: fixed.text }] };
			return [{ at: ['body', 'xml'], values: { line, column, detail: message }, ...(fix ? { fix } : {}) }];
		}
	},
	{
		code: 'lint.bodyOnGet',
		doc: 'A body on GET, HEAD or DELETE, which servers may ignore or refuse (RFC 9110 sections 9.3.1, 9.3.2 and 9.3.5).',
		example: { send: 'GET /a', body: { json: { a: 1 } } },
		find: ({ send: { method, body } }) =>
			body && ['GET', 'HEAD', 'DELETE'].includes(method) ? [{ at: ['body'], values: { method } }] : []
	},
	{
		code: 'lint.contentType',
		doc: 'A Content-Type that does not fit the kind of body.',
		example: { send: 'POST /a', headers: { 'Content-Type': 'text/plain' }, body: { json: { a: 1 } } },
		find({ send: { body } }, raw) {
			if (!body) return [];
			const fits: Record<string, (type: string) => boolean> = {
				json: isJsonType,
				xml: isXmlType,
				form: (type) => type === 'application/x-www-form-urlencoded',
				multipart: (type) => type.startsWith('multipart/')
			};
			const fit = fits[body.kind];
			return entriesOf(raw, 'headers').flatMap(({ name, value, off, at }): Finding[] => {
				if (off || name.toLowerCase() !== 'content-type' || computed(value) || !fit) return [];
				const type = String(value).split(';')[0]!.trim().toLowerCase();
				if (fit(type)) {
					if (body.kind !== 'multipart' || /boundary=/i.test(String(value))) return [];
				}
				const fix = {
					label: 'leave it to the body',
					edits: [{ path: ['headers'], ...optional(changed(raw, 'headers', at[1]!)) }]
				};
				return [{ at, values: { type: String(value), kind: body.kind }, fix }];
			});
		}
	},
	{
		code: 'lint.headerName',
		doc: 'A header name one slip away from a known one.',
		example: { send: 'GET /a', headers: { Autorization: 'Bearer {$secret.word}' } },
		find: (_, raw) =>
			entriesOf(raw, 'headers').flatMap(({ name, at }): Finding[] => {
				if (computed(name) || known.has(name.toLowerCase()) || name.length < 4) return [];
				const near = HEADERS.find((one) => editDistance(one.toLowerCase(), name.toLowerCase()) === 1);
				if (!near) return [];
				const value = changed(raw, 'headers', at[1]!, near)!;
				return [{ at, values: { name, near }, fix: { label: `write ${near}`, edits: [{ path: ['headers'], value }] } }];
			})
	},
	{
		code: 'lint.slashes',
		doc: 'Two slashes in a row in a path.',
		example: { send: 'GET /a//b' },
		find({ send: { method, target } }) {
			if (!/(^|[^:])\/\//.test(pathOf(target).replace(/\{\$[^}]*\}/g, 'x'))) return [];
			const [path = '', ...query] = target.split('?');
			const tidy = [path.replace(/(^|[^:])\/{2,}/g, '$1/'), ...query].join('?');
			return [{ at: ['send'], fix: { label: 'write one', edits: [{ path: ['send'], value: `${method} ${tidy}` }] } }];
		}
	},
	{
		code: 'lint.encoding',
		doc: 'Characters in an address that go out percent-encoded.',
		example: { send: 'GET /a b/ü' },
		find({ send: { method, target } }) {
			// names in braces and expressions are filled in
			const literal = target.replace(/\{[^{}]*\}/g, '');
			const strange = literal.match(/[^\x21-\x7e]|["<>\\^`|]/g);
			if (!strange || target.includes('{$')) return [];
			const value = `${method} ${target.replace(/[^\x21-\x7e]|["<>\\^`|]/gu, (c) => encodeURIComponent(c))}`;
			const shown = [...new Set(strange)].map((c) => (c === ' ' ? 'a blank' : c)).join(' and ');
			return [
				{ at: ['send'], values: { shown }, fix: { label: 'write it encoded', edits: [{ path: ['send'], value }] } }
			];
		}
	},
	{
		code: 'lint.queryTwice',
		doc: 'A query parameter that is given twice: in the path and in the table, or twice with the same value.',
		example: { send: 'GET /a?size=5', query: { size: 5 } },
		find({ send: { target } }, raw) {
			const written = new URLSearchParams(
				target.includes('?') && !target.includes('{$') ? target.slice(target.indexOf('?')) : ''
			);
			const seen = new Set<string>();
			return entriesOf(raw, 'query').flatMap(({ name, value, off, at }): Finding[] => {
				if (off) return [];
				const key = `${name}=${String(value)}`;
				const twice = written.has(name) || seen.has(key);
				seen.add(key);
				if (!twice) return [];
				const fix = {
					label: 'take it out of the table',
					edits: [{ path: ['query'], ...optional(changed(raw, 'query', at[1]!)) }]
				};
				return [{ at, values: { name }, fix }];
			});
		}
	},
	{
		code: 'lint.plainSecret',
		doc: 'What looks like a secret, written in plain.',
		example: { send: 'POST /a', headers: { Authorization: 'Bearer 0a1b2c3d4e' } },
		find({ send: { target, body } }, raw) {
			const out: Finding[] = [];
			if (/:\/\/[^/@{]+:[^/@{]+@/.test(target))
				out.push({ at: ['send'], values: { name: 'the password in the address' } });
			else {
				const found = secretInQuery(target);
				if (found) out.push({ at: ['send'], values: { name: `${found.name} in the address` } });
			}
			for (const { name, value, at, off } of [
				...entriesOf(raw, 'headers'),
				...entriesOf(raw, 'query'),
				...entriesOf(raw, 'cookies')
			]) {
				if (off || computed(value) || typeof value !== 'string' || value.length < 4) continue;
				const place = at[0] === 'query' ? 'query' : 'header';
				if (looksSecret(place, name, value)) out.push({ at, values: { name } });
			}
			if (typeof body?.value === 'string' && body.kind !== 'file' && TOKEN.test(body.value))
				out.push({ at: ['body', body.kind], values: { name: 'a token in the body' } });
			else if (body && body.kind !== 'file')
				for (const { at, name } of plainSecrets(body.value, ['body', body.kind])) out.push({ at, values: { name } });
			return out;
		}
	},
	{
		code: 'lint.unknownFunction',
		doc: 'A function that expressions do not know; one that is alike is named.',
		example: { send: 'GET /a?at={$nwo()}' },
		find: (_, raw) =>
			Object.entries(raw).flatMap(([key, value]) =>
				[...new Set(unknownCallsIn(value, key === 'when'))].map((name): Finding => ({
					at: [key],
					values: { name, nearest: didYouMean(name, functionNames).replace(/^; known.*/, '') }
				}))
			)
	},
	{
		code: 'lint.pathValue',
		doc: 'A name in braces in the path that nothing gives a value.',
		example: { send: 'GET /a/{id}' },
		find({ send: { target } }, raw) {
			const given = new Set(entriesOf(raw, 'path').flatMap(({ name, off }) => (off ? [] : [name])));
			return holesOf(target).flatMap((name): Finding[] =>
				given.has(name) ? [] : [{ at: ['send'], values: { name } }]
			);
		}
	},
	{
		code: 'lint.pathUnused',
		doc: 'A value for the path whose name stands nowhere in it.',
		example: { send: 'GET /a/{id}', path: { id: 1, ib: 2 } },
		find({ send: { target } }, raw) {
			const holes = new Set(holesOf(target));
			if (target.includes('{$')) return [];
			return entriesOf(raw, 'path').flatMap(({ name, off, at }): Finding[] => {
				if (off || holes.has(name)) return [];
				const fix = { label: 'take it out', edits: [{ path: ['path'], ...optional(changed(raw, 'path', at[1]!)) }] };
				return [{ at, values: { name }, fix }];
			});
		}
	},
	{
		code: 'lint.headerTwice',
		doc: 'A header that is given twice, and is no list (RFC 9110 section 5.3).',
		example: {
			send: 'GET /a',
			headers: [
				['X-Berth', '1'],
				['x-berth', '2']
			]
		},
		find(_, raw) {
			const seen = new Set<string>();
			return entriesOf(raw, 'headers').flatMap(({ name, off, at }): Finding[] => {
				const key = name.toLowerCase();
				if (off || computed(name) || LISTS.test(key)) return [];
				const first = !seen.has(key);
				seen.add(key);
				if (first) return [];
				const fix = {
					label: 'take the second out',
					edits: [{ path: ['headers'], ...optional(changed(raw, 'headers', at[1]!)) }]
				};
				return [{ at, values: { name }, fix }];
			});
		}
	},
	{
		code: 'lint.status',
		doc: 'A status that no answer has: codes go from 100 to 599 (RFC 9110 section 15).',
		example: { send: 'GET /a', checks: [{ status: 999 }] },
		find: ({ send: { checks } }) =>
			checks.flatMap(({ kind, off, relations }, index) =>
				kind !== 'status' || off
					? []
					: relations
							.flatMap(({ name, expected }) => (EXACT.has(name) ? [expected].flat() : []))
							.filter((one) => typeof one === 'number' && !(Number.isInteger(one) && one >= 100 && one <= 599))
							.map((one): Finding => ({ at: ['checks', index], values: { status: String(one) } }))
			)
	},
	{
		code: 'lint.emptyBody',
		doc: 'A call that makes or changes something, without a body.',
		example: { send: 'PATCH /a' },
		find: ({ send: { method, body } }) =>
			!body && ['PUT', 'PATCH'].includes(method) ? [{ at: ['send'], values: { method } }] : []
	}
];

/** Relations of a status that name codes. */
const EXACT = new Set(['status', 'equals', 'oneOf']);
/** Headers that are lists: given twice, they are one (RFC 9110 section 5.3). */
const LISTS =
	/^(accept(-.*)?|cache-control|connection|cookie|expect|forwarded|if-(none-)?match|link|prefer|te|trailer|upgrade|via|x-forwarded-.*)$/;
/** Names in braces in a target: URI templates (RFC 6570), expressions left out. */
const holesOf = (target: string): string[] =>
	[...target.matchAll(/\{([^{}$][^{}]*)\}/g)].flatMap(([, inner = '']) =>
		inner
			.replace(/^[+#./;?&]/, '')
			.split(',')
			.map((name) => name.replace(/(\*|:\d+)$/, '').trim())
	);

const optional = (value: Json | undefined): { value?: Json } => (value === undefined ? {} : { value });
