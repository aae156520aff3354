import { readCurl, stepOfCall, writeCurl } from '#core/exchange/index.ts';
import { execFile } from 'node:child_process';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { runAll, steps } from '../support/project.ts';

/** What came in, as it stood on the wire. */
interface Came {
	line: string;
	headers: [string, string][];
	body: string;
}
let base = '';
let came: Came[] = [];
const server = createServer((request, response) => {
	const chunks: Buffer[] = [];
	request.on('data', (chunk: Buffer) => chunks.push(chunk));
	request.on('end', () => {
		const { rawHeaders } = request;
		came.push({
			line: `${request.method} ${request.url}`,
			headers: rawHeaders.flatMap((name, at): [string, string][] => (at % 2 ? [] : [[name, rawHeaders[at + 1]!]])),
			body: Buffer.concat(chunks).toString('latin1')
		});
		response.end('{}');
	});
});
beforeAll(async () => {
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => void server.close());

const bash = (command: string, env: Record<string, string> = {}) =>
	promisify(execFile)('bash', ['-c', command], { env: { PATH: process.env.PATH, ...env } });

/** What is not a matter of the call itself; the boundary of parts is another one each time. */
function plain({ line, headers, body }: Came, left: RegExp): Came {
	const boundary = /boundary=(\S+)/.exec(headers.find(([name]) => /^content-type$/i.test(name))?.[1] ?? '')?.[1];
	const even = (text: string) => (boundary ? text.replaceAll(boundary, 'BOUNDARY') : text);
	return {
		line,
		headers: headers
			.filter(([name]) => !left.test(name))
			.map(([name, value]): [string, string] => [name.toLowerCase(), even(value)])
			.sort(([a], [b]) => (a < b ? -1 : 1)),
		body: even(body)
	};
}

/** The same address may be written in several ways: a space as + or %20, small letters, a quote as it is. */
const sameAddress = (line: string): string =>
	line
		.replace(/\+/g, '%20')
		.replace(/%[\da-f]{2}/gi, (code) => code.toUpperCase())
		.replaceAll('"', '%22')
		.replace(/\?all=$/, '?all');

describe('a step that was made of a command sends what curl sends', () => {
	test.each([
		['an address', `curl 'BASE/a/b?x=1&y=a%20b&y=c'`],
		['a form', `curl BASE/a -d 'a=1&b=x+y' --data-urlencode 'c=1 & ü'`],
		[
			'JSON',
			`curl BASE/a -H 'Content-Type: application/json' --data-raw '{"a":[1,2.50,"ü€"],"b":12345678901234567890}'`
		],
		['--json', `curl BASE/a --json '{"a":null}'`],
		['a text with line ends', `curl BASE/a -H 'Content-Type: text/plain' --data-binary $'one\\r\\ntwo\\n\\'three\\''`],
		[
			'headers and cookies',
			`curl -X PATCH BASE/a -H 'X-One: a, b' -H 'x-two:c' -b 'k=v; l=w' -A robin -e http://127.0.0.1/from`
		],
		['user and password', `curl -u 'avery:p:w ü' BASE/a`],
		['a bearer', `curl --oauth2-bearer abc.def BASE/a`],
		['-G', `curl -G BASE/a -d a=1 --data-urlencode 'b=x/y z'`],
		['parts', `curl BASE/a -F a=1 -F 'b=two;type=text/plain' -F 'c=x;filename=c.txt;type=text/csv'`],
		['PUT of what is no JSON', `curl -X PUT BASE/a -H 'Content-Type: application/json' -d '{"a":'`],
		['DELETE with a query', `curl -X DELETE 'BASE/a?all'`],
		['double quotes', `curl "BASE/a?q=\\"x\\"" -H "X: \\$5 \\\\ \\\`"`]
	])('%s', async (_, written) => {
		const command = written.replaceAll('BASE', base);
		came = [];
		await bash(`curl() { command curl -s "$@"; }; ${command}`);
		const [call] = readCurl(command);
		const made = stepOfCall(call!, { connections: [{ name: 'one', base }], taken: new Set(), secrets: new Set() });
		expect(made.notes).toEqual([]);
		const [result] = await runAll({
			connections: { one: { base } },
			credentials: Object.fromEntries(
				made.documents.map(({ path, value }) => [path.replace(/^credentials\/|\.yaml$/g, ''), value])
			),
			collections: { c: steps([made.step]) },
			secrets: Object.fromEntries(made.secrets.map(({ name, value }) => [name, value]))
		});
		expect(result!.error).toBeUndefined();
		expect(came).toHaveLength(2);
		// what curl, or we, add by ourselves, where the command does not say it
		const added = ['connection', 'accept-encoding', 'content-length', 'host'];
		if (!/ -A /.test(command)) added.push('user-agent');
		if (!/--json/.test(command)) added.push('accept');
		const [theirs, own] = came.map((one) => plain(one, new RegExp(`^(${added.join('|')})$`, 'i')));
		expect(sameAddress(own!.line)).toBe(sameAddress(theirs!.line));
		expect({ headers: own!.headers, body: own!.body }).toEqual({ headers: theirs!.headers, body: theirs!.body });
	});
});

describe('what is copied from an exchange sends the same bytes', () => {
	test.each<[string, object]>([
		[
			'a query and headers',
			{ send: 'GET /a b?x=1', query: { y: 'ü & z', "it's": '$HOME `id`' }, headers: { 'X-Odd': `'"\\ $x ! #` } }
		],
		['JSON', { send: 'POST /a', body: { json: { a: "it's", b: [1, 2.5, null], c: 'line\nline' } } }],
		['a form', { send: 'PUT /a', body: { form: { a: '1 + 1', b: '@file', c: '' } } }],
		[
			'a text with odd letters',
			{ send: 'POST /a', body: { text: `@x 'a' "b" \\n \`c\` $d %e !f\r\n\tü€𝒳`, type: 'text/plain; charset=utf-8' } }
		],
		[
			'parts',
			{
				send: 'POST /a',
				body: {
					multipart: [
						{ name: 'a', text: '1' },
						{ name: 'b', json: { c: 2 } }
					]
				}
			}
		],
		['another method and no type', { send: 'M-SEARCH /a[1]/{x}', path: { x: 'y' } }],
		[
			'a secret',
			{ send: 'GET /a', query: { key: '{$secret.gateKey}' }, headers: { Authorization: 'Bearer {$secret.gateKey}' } }
		],
		['HEAD', { send: 'HEAD /a' }],
		['an empty header', { send: 'GET /a', headers: { 'X-Empty': '' } }]
	])('%s', async (_, step) => {
		came = [];
		const secrets = { gateKey: 'k-12345' };
		const [result] = await runAll({ connections: { one: { base } }, collections: { c: steps([step]) }, secrets });
		const [{ method, url, requestHeaders, requestBody } = result!.exchanges[0]!] = result!.exchanges;
		const mask = (text: string) => text.replaceAll(secrets.gateKey, '‹gateKey›');
		const command = writeCurl(
			{
				...{ method, url: mask(url) },
				headers: requestHeaders.map(([name, value]): [string, string] => [name, mask(value)]),
				body: mask(new TextDecoder().decode(requestBody))
			},
			'bash'
		);
		await bash(command, { GATE_KEY: secrets.gateKey });
		expect(command).not.toContain(secrets.gateKey);
		expect(came).toHaveLength(2);
		const [own, theirs] = came.map((one) => ({
			...one,
			headers: one.headers.filter(([name]) => !/^(connection|content-length|host)$/i.test(name))
		}));
		expect(theirs).toEqual(own);
	});
});
