import { describe, expect, test } from 'vitest';
import { readMessage, writeMessage, writeReplyMessage } from './message.ts';
import { readSampleAnswer } from './sample-answer.ts';
import { readCurl, stepOfCall, writeCurl, type MadeStep } from './index.ts';
import { commandsIn } from './shell.ts';

describe('words of a shell', () => {
	test.each<[string, string, string[][]]>([
		['single quotes keep all', 'a \'b "c" $d \\e\'', [['a', 'b "c" $d \\e']]],
		['double quotes escape four', '"a\\"b\\\\c\\$d\\e"', [['a"b\\c$d\\e']]],
		['a quote beside another', `'it'\\''s'`, [["it's"]]],
		['lines that go on', 'a \\\n  b \\\r\n  c', [['a', 'b', 'c']]],
		['bash escapes', "$'a\\n\\t\\x41\\u00e9\\'\\\\'", [["a\n\tAé'\\"]]],
		['octets of bash are UTF-8', "$'\\xe2\\x82\\xac \\303\\251'", [['€ é']]],
		['comments and several commands', 'a b # c\nd; e | f', [['a', 'b'], ['d'], ['e'], ['f']]],
		['an address without quotes', 'curl http://h/?a=1&b=2', [['curl', 'http://h/?a=1&b=2']]],
		['empty words', `a '' ""`, [['a', '', '']]],
		['variables', 'a "x $B ${C}d" $E', [['a', 'x \uE000B\uE001 \uE000C\uE001d', '\uE000E\uE001']]],
		['a dollar alone', 'a $ "$ 5" \'$x\'', [['a', '$', '$ 5', '$x']]]
	])('%s', (_, text, words) => expect(commandsIn(text, 'posix')).toEqual(words));
	test.each<[string, string, string[][]]>([
		[
			'carets and lines',
			'curl ^"http://h/?a=1^&b=2^" ^\r\n  -H ^"X: a^"',
			[['curl', 'http://h/?a=1&b=2', '-H', 'X: a']]
		],
		['quotes inside', 'curl -d ^"{^\\^"a^\\^":1}^"', [['curl', '-d', '{"a":1}']]],
		['doubled quotes', 'curl -d "say ""hi"""', [['curl', '-d', 'say "hi"']]]
	])('of cmd: %s', (_, text, words) => expect(commandsIn(text, 'cmd')).toEqual(words));
	test.each<[string, string, string[][]]>([
		['backticks', 'curl.exe `\n -H "a`"b `$c"', [['curl.exe', '-H', 'a"b $c']]],
		['single quotes doubled', "curl.exe 'it''s $x'", [['curl.exe', "it's $x"]]],
		[
			'variables of the environment',
			'curl.exe -H "Bearer $env:TOKEN"',
			[['curl.exe', '-H', 'Bearer \uE000TOKEN\uE001']]
		]
	])('of PowerShell: %s', (_, text, words) => expect(commandsIn(text, 'powershell')).toEqual(words));
	test.each([
		["curl 'http://h", "the quote ' in line 1, column 6 is not closed"],
		['curl \\\n  -d "x', 'the quote " in line 2, column 6 is not closed'],
		["curl $'x", "the quote ' in line 1, column 7 is not closed"]
	])('%s is not closed', (text, said) => expect(() => readCurl(text)).toThrow(said));
});

const BASE = {
	connections: [{ name: 'api', base: 'https://h.example/v1' }],
	taken: new Set<string>(),
	secrets: new Set<string>()
};
const made = (text: string): MadeStep => stepOfCall(readCurl(text)[0]!, BASE);

describe('a command becomes a step', () => {
	test.each<[string, string, object]>([
		['an address', 'curl https://h.example/v1/boats', { send: 'GET /boats' }],
		[
			'with a query',
			"curl 'https://h.example/v1/boats?a=1&b=x%20y&b=z'",
			{
				query: [
					['a', '1'],
					['b', 'x y'],
					['b', 'z']
				]
			}
		],
		['another method', 'curl -X DELETE https://h.example/v1/boats/7', { send: 'DELETE /boats/7' }],
		['-XPUT in one word', 'curl -XPUT https://h.example/v1/a', { send: 'PUT /a' }],
		['HEAD', 'curl -sSIL https://h.example/v1/a', { send: 'HEAD /a' }],
		[
			'headers',
			"curl -H 'X-One: 1' -H 'X-Empty;' -H 'Accept:' https://h.example/v1/a",
			{ headers: { 'X-One': '1', 'X-Empty': '' } }
		],
		[
			'what is added by itself stays out',
			"curl -H 'Host: h.example' -H 'Content-Length: 3' -H 'sec-ch-ua: x' https://h.example/v1/a",
			{ send: 'GET /a' }
		],
		[
			'a form',
			"curl -d a=1 -d 'b=x+y%26' https://h.example/v1/a",
			{ send: 'POST /a', body: { form: { a: '1', b: 'x y&' } } }
		],
		[
			'a form that is encoded here',
			"curl --data-urlencode 'a=1 & 2' --data-urlencode '=x y' https://h.example/v1/a",
			{ body: { form: { a: '1 & 2', 'x y': '' } } }
		],
		[
			'-G',
			"curl -G -d a=1 --data-urlencode 'q=x y' https://h.example/v1/a",
			{ send: 'GET /a', query: { a: '1', q: 'x y' } }
		],
		[
			'JSON',
			`curl -H 'Content-Type: application/json' -d '{"a":1,"big":12345678901234567890}' https://h.example/v1/a`,
			{ body: { json: { a: 1, big: 12345678901234567890n } } }
		],
		[
			'--json',
			`curl --json '[1]' https://h.example/v1/a`,
			{ headers: { Accept: 'application/json' }, body: { json: [1] } }
		],
		[
			'--json in pieces',
			`curl --json '{"a":' --json '1}' https://h.example/v1/a`,
			{ headers: { Accept: 'application/json' }, body: { json: { a: 1 } } }
		],
		[
			'a part that is the content of a file',
			`curl -F 'n=<note.txt;type=text/plain' https://h.example/v1/a`,
			{ body: { multipart: [{ name: 'n', text: '', type: 'text/plain' }] } }
		],
		[
			'another JSON',
			`curl -H 'Content-Type: application/merge-patch+json' -d '{}' https://h.example/v1/a`,
			{ body: { json: {}, type: 'application/merge-patch+json' } }
		],
		[
			'what is no JSON',
			`curl -H 'Content-Type: application/json' -d '{"a":' https://h.example/v1/a`,
			{ body: { text: '{"a":', type: 'application/json' } }
		],
		[
			'XML',
			`curl -H 'Content-Type: text/xml; charset=utf-8' -d '<a/>' https://h.example/v1/a`,
			{ body: { xml: '<a/>', type: 'text/xml; charset=utf-8' } }
		],
		[
			'text',
			`curl -H 'Content-Type: text/csv' --data-binary $'a,b\\n1,2\\n' https://h.example/v1/a`,
			{ body: { text: 'a,b\n1,2\n', type: 'text/csv' } }
		],
		[
			'parts',
			`curl -F name=Pike -F 'scan=@permit.pdf;type=application/pdf' -F 'n="a;b";filename=x.txt' https://h.example/v1/a`,
			{
				body: {
					multipart: [
						{ name: 'name', text: 'Pike' },
						{ name: 'scan', file: 'files/permit.pdf', type: 'application/pdf' },
						{ name: 'n', text: 'a;b', filename: 'x.txt' }
					]
				}
			}
		],
		['a file', 'curl -T out/data.bin https://h.example/v1/a', { send: 'PUT /a', body: { file: 'files/data.bin' } }],
		['a time', 'curl -m 2.5 https://h.example/v1/a', { timeout: '2500 ms' }],
		[
			'an expression stays text',
			`curl -H 'X: {$env.a}' 'https://h.example/v1/a/{b}'`,
			{ send: 'GET /a/%7Bb%7D', headers: { X: '\\{$env.a}' } }
		],
		[
			'a variable of the shell',
			'curl -H "X-Run: $RUN_ID" https://h.example/v1/a',
			{ headers: { 'X-Run': '{$env.RUN_ID}' } }
		]
	])('%s', (_, text, step) => expect(made(text).step).toMatchObject(step));

	test('what is secret is taken out, each once, and named', () => {
		const { step, secrets } = made(
			`curl -H 'Authorization: Bearer abc.def' -b 'sid=xyz; theme=dark' -H 'X-Api-Key: k-123' -d '{"password":"hunter2","again":"hunter2x"}' -H 'Content-Type: application/json' 'https://h.example/v1/a?api_key=k-123'`
		);
		expect(step).toMatchObject({
			query: { api_key: '{$secret.apiApiKey}' },
			headers: { Authorization: 'Bearer {$secret.apiBearer}', 'X-Api-Key': '{$secret.apiApiKey}' },
			cookies: { sid: '{$secret.apiSid}', theme: '{$secret.apiTheme}' },
			body: { json: { password: '{$secret.apiPassword}', again: 'hunter2x' } }
		});
		expect(secrets.map(({ name, value, where }) => [name, value, where])).toEqual([
			['apiApiKey', 'k-123', 'query api_key'],
			['apiBearer', 'abc.def', 'header Authorization'],
			['apiSid', 'xyz', 'cookie sid'],
			['apiTheme', 'dark', 'cookie theme'],
			['apiPassword', 'hunter2', 'body password']
		]);
		expect(JSON.stringify(step)).not.toMatch(/abc\.def|xyz|k-123|"hunter2"/);
	});
	test('a secret that is a variable of the shell has its name, and no value', () => {
		expect(made('curl -H "Authorization: Bearer $GATE_TOKEN" https://h.example/v1/a')).toMatchObject({
			step: { headers: { Authorization: 'Bearer {$secret.gateToken}' } },
			secrets: [{ name: 'gateToken', value: '' }]
		});
	});
	test('user and password become a credential', () => {
		const { step, documents, secrets } = made('curl --digest -u avery:p:w https://h.example/v1/a');
		expect(step.credential).toBe('avery');
		expect(documents).toEqual([
			{
				path: 'credentials/avery.yaml',
				value: { heron: 1, title: 'avery', kind: 'digest', user: 'avery', password: '{$secret.apiAveryPassword}' }
			}
		]);
		expect(secrets[0]).toMatchObject({ value: 'p:w' });
	});
	test('an address that no connection goes to gets one', () => {
		expect(made('curl http://127.0.0.1:8080/x/y')).toMatchObject({
			step: { send: 'GET /x/y' },
			connection: '127-0-0-1',
			documents: [{ path: 'connections/127-0-0-1.yaml', value: { base: 'http://127.0.0.1:8080' } }]
		});
		expect(made('curl https://api.locks.example/x').connection).toBe('locks');
	});
	test('several addresses and commands are several calls', () => {
		const calls = readCurl('curl -H "A: 1" http://h/a http://h/b --next -X PUT http://h/c\n$ curl http://h/d');
		expect(calls.map(({ method, url, headers }) => `${method} ${url} ${headers.length}`)).toEqual([
			...['GET http://h/a 1', 'GET http://h/b 1', 'PUT http://h/c 0', 'GET http://h/d 0']
		]);
	});
	test.each([
		['curl -k https://h.example/v1/a', /tls: \{ verify: false \}/],
		['curl -x http://p:3128 https://h.example/v1/a', /proxy:/],
		['curl --cert c.pem --key k.pem https://h.example/v1/a', /client certificate/],
		['curl --aws-sigv4 x https://h.example/v1/a', /--aws-sigv4 was left out/],
		['curl -d @body.json https://h.example/v1/a', /put it into the project as files\/body.json/],
		['curl --what https://h.example/v1/a', /--what was left out/],
		['curl -b jar.txt https://h.example/v1/a', /cookies of the file jar.txt/]
	])('%s says what is not carried over', (text, said) => expect(made(text).notes.join('\n')).toMatch(said));
	test.each([
		['curl', 'no call can be read'],
		['wget http://h/a', 'no call can be read'],
		['curl -d', 'no call can be read'],
		['', 'no call can be read'],
		[`curl ${'x'.repeat(5_000_001)}`, 'longer than 5 MB']
	])('%.20s is refused', (text, said) => expect(() => readCurl(text)).toThrow(said));
});

test.each(['curl http://[bad', 'curl http://h%/a', 'curl ftp://h/a', 'curl http://h/a %'])(
	'%s has an address that is none',
	(text) => expect(() => readCurl(text).map((call) => stepOfCall(call, BASE))).toThrow('is not an address')
);

describe('a call becomes a command', () => {
	const call = {
		method: 'POST',
		url: 'https://h.example/a?key=%E2%80%B9gateKey%E2%80%BA',
		headers: [
			['Host', 'h.example'],
			['Authorization', 'Bearer ‹avery.access_token›'],
			['X', "it's $5"]
		] as [string, string][],
		body: '{"p":"‹clerkPassword›"}'
	};
	test('secrets are variables, and named above', () => {
		expect(writeCurl(call, 'bash')).toBe(
			[
				'# wants GATE_KEY, AVERY_ACCESS_TOKEN, CLERK_PASSWORD',
				'curl \\',
				'  --request POST \\',
				`  'https://h.example/a?key='"$GATE_KEY" \\`,
				`  --header 'Authorization: Bearer '"$AVERY_ACCESS_TOKEN" \\`,
				`  --header 'X: it'\\''s $5' \\`,
				"  --header 'Accept:' \\",
				"  --header 'User-Agent:' \\",
				"  --header 'Content-Type:' \\",
				`  --data-raw '{"p":"'"$CLERK_PASSWORD"'"}'`
			].join('\n')
		);
		expect(writeCurl(call, 'powershell')).toContain('  --header "Authorization: Bearer ${env:AVERY_ACCESS_TOKEN}" `\n');
		expect(writeCurl(call, 'powershell')).toContain("  --header 'X: it''s $5' `\n");
	});
	test('and a step again', () => {
		const again = readCurl(writeCurl({ ...call, url: 'https://h.example/v1/a' }, 'bash'));
		expect(stepOfCall(again[0]!, BASE).step).toMatchObject({
			send: 'POST /a',
			headers: { Authorization: 'Bearer {$secret.averyAccessToken}', X: "it's $5" }
		});
	});
});

describe('a message of HTTP', () => {
	test.each([
		{ method: 'GET', url: 'https://tolls.reedmere.example/a%20b?x=1&y', headers: [['Accept', '*/*']], body: '' },
		{
			method: 'POST',
			url: 'http://127.0.0.1:8080/',
			headers: [
				['Host', '127.0.0.1:8080'],
				['X', 'a, b']
			],
			body: 'one\ntwo'
		},
		{ method: 'PUT', url: 'http://[::1]:9/a', headers: [], body: '{"a":1}' }
	] as const)('of $method $url is read as what was written', (call) => {
		const [again] = readMessage(writeMessage(call));
		const { body } = again!;
		expect({ method: again!.method, url: again!.url, body: body && 'text' in body ? body.text : '' }).toEqual({
			...{ method: call.method, url: call.url, body: call.body }
		});
		const host = new URL(call.url).host;
		expect(again!.headers.filter(([name]) => name === 'Host')).toEqual([['Host', host]]);
	});
	test('leaves out what stands behind # and what is no text', () => {
		expect(writeMessage({ method: 'GET', url: 'http://h#top', headers: [], body: 'x', binary: true })).toBe(
			'GET / HTTP/1.1\nHost: h\n\n(bytes that are no text)'
		);
	});
	test('of a reply begins with its status', () => {
		const reply = { version: 'HTTP/2', status: 204, reason: '', headers: [['a', 'b']] as [string, string][], body: '' };
		expect(writeReplyMessage(reply)).toBe('HTTP/2 204\na: b\n\n');
	});
});

describe('an answer that somebody has as a text', () => {
	const json: [string, string][] = [['Content-Type', 'application/json']];
	test.each<[string, string, object]>([
		['JSON alone', ' {"id": 9007199254740993}', { status: 200, headers: json, data: { id: 9007199254740993n } }],
		[
			'a whole response, its lines folded and ended in either way',
			'HTTP/1.1 201 Created\r\nContent-Type: application/problem+json;\r\n charset=utf-8\r\n\r\n[1]\r\n',
			{ status: 201, headers: [['Content-Type', 'application/problem+json; charset=utf-8']], data: [1] }
		],
		['HTTP/2, without a reason or a body', 'HTTP/2 204\nx: y\n\n', { status: 204, headers: [['x', 'y']] }],
		['text, of which nothing more is known', 'HTTP/1.1 200 OK\nContent-Type: text/plain\n\nahoy', { status: 200 }],
		['XML alone', '<berth><id>7</id></berth>', { status: 200, data: { berth: { id: '7' } } }]
	])('%s', (_, text, found) => expect(readSampleAnswer(text)).toMatchObject(found));
	test('a fault of SOAP is one', () => {
		const text =
			'<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><e:Fault><faultcode>e:Client</faultcode><faultstring>No</faultstring></e:Fault></e:Body></e:Envelope>';
		expect(readSampleAnswer(text).fault).toMatchObject({ code: 'Client' });
	});
	test.each([
		['nothing', '  ', 'it is empty'],
		['JSON that is cut', '{"id": 1', 'its body is no JSON'],
		['XML that is cut', '<a><b></a>', 'its body is no XML'],
		['no status', 'HTTP/1.1 OK\n\n', 'no status line'],
		['no header field', 'HTTP/1.1 200 OK\nfoo bar\n\n{}', 'line 2 is no header field: foo bar']
	])('%s is refused in words', (_, text, said) => expect(() => readSampleAnswer(text)).toThrow(said));
});
