import { seeded } from '../model/seed.ts';
import { describe, expect, test } from 'vitest';
import { HeronError } from '../errors.ts';
import type { Json, JsonObject } from '../model/json.ts';
import {
	createEvaluator,
	decodeText,
	escapeAddress,
	escapeXml,
	functions,
	parseTemplate,
	Raw,
	resolveVariables,
	tidyAddress
} from './index.ts';
import { compileExpression } from './expression.ts';
import type { FunctionPorts, Scope } from './scope.ts';

const ports = (): FunctionPorts => {
	let counter = 0;
	let byte = 7;
	return {
		now: () => Date.UTC(2027, 4, 14, 6, 30, 15, 42),
		randomBytes: (n) => Uint8Array.from({ length: n }, () => (byte = (byte * 31 + 11) % 256)),
		readFile: (path) => (path === 'files/note.txt' ? new TextEncoder().encode('A note.') : undefined),
		seed: 42,
		random: seeded(1),
		next: () => ++counter
	};
};
const scope = (): Scope => ({
	names: {
		env: {
			host: 'http://h/v1',
			nights: 3,
			deep: { list: [{ id: 'a' }, { id: 'b' }] },
			empty: '',
			no: false,
			nil: null
		},
		secret: { key: 's3cret' },
		row: { mooring: 'A-01' },
		steps: { book: { reference: 'RW-1', blank: 'a b/c' } },
		run: { id: 'r1' }
	},
	ports: ports(),
	hint: () => ': set it somewhere'
});
const code = async (promise: Promise<unknown>): Promise<string> =>
	promise.then(
		() => 'no error',
		(error: unknown) => (error instanceof HeronError ? error.code : String(error))
	);

describe('values that are there at once', () => {
	const evaluator = createEvaluator();
	const table: [name: string, text: string, expected: string][] = [
		['a text without expressions', '/bookings', '/bookings'],
		['plain paths between texts', '/b/{$steps.book.reference}/{$env.nights}', '/b/RW-1/3']
	];
	test.for(table)('%s', ([, text, expected]) => {
		expect(evaluator.text(text, scope())).toBe(expected);
	});
	test('what comes before and behind a value that has to be computed stays where it is', async () => {
		const text = '{$env.nights}-{$uppercase($row.mooring)}-{$env.nights}-{$lowercase($row.mooring)}.';
		const made = evaluator.text(
			text,
			scope(),
			(value) => `<${value}>`,
			(literal) => literal.replace('-', '+')
		);
		expect(made).toBeInstanceOf(Promise);
		expect(await made).toBe('<3>+<A-01>+<3>+<a-01>.');
	});
	test('numbers and truth values are given as they are', () => {
		expect([3, true, null].map((value) => evaluator.deep(value, scope()))).toEqual([3, true, null]);
	});
});

test.for<[charset: string, broken: number[]]>([
	['utf-8', [0x41, 0xc3]],
	['utf-16le', [0x41, 0x00, 0x42]],
	['shift_jis', [0x41, 0x82]],
	['iso-2022-jp', [0x1b, 0x24, 0x42, 0xff]]
])('a body that is no %s leaves nothing behind for the next one', ([charset, broken]) => {
	expect(decodeText(Uint8Array.from(broken), charset)).toMatchObject({ valid: false, charset });
	const plain = charset === 'utf-16le' ? [0x41, 0x00, 0x42, 0x00] : [0x41, 0x42];
	expect(decodeText(Uint8Array.from(plain), charset)).toEqual({ text: 'AB', valid: true, charset });
});

// what is thrown at once and what is refused later are one to those who wait
const valueOf = async (text: string): Promise<Json> => createEvaluator().value(text, scope());

describe('templates', () => {
	test.each<[string, string, unknown]>([
		['plain text is one part', 'plain', [{ text: 'plain' }]],
		[
			'an expression is cut out with its braces',
			'a {$env.x} b',
			[{ text: 'a ' }, { source: '$env.x', start: 2, end: 10 }, { text: ' b' }]
		],
		['braces of JSON and URI templates stay', '{"a": {name}}', [{ text: '{"a": {name}}' }]],
		['a backslash keeps the braces', '\\{$env.x}', [{ text: '{$env.x}' }]],
		[
			'braces inside the expression are counted',
			'{$merge([{"a": 1}])}',
			[{ source: '$merge([{"a": 1}])', start: 0, end: 20 }]
		],
		['a brace in a quoted text does not close it', '{$f("}")}', [{ source: '$f("}")', start: 0, end: 9 }]]
	])('%s', (_, text, parts) => {
		expect(parseTemplate(text)).toEqual(parts);
	});
	test('one that is not closed is refused', () => {
		expect(() => parseTemplate('x {$env.a')).toThrow(/not closed/);
	});
});

describe('values', () => {
	test.each<[string, string, Json]>([
		['a text that is one expression keeps a number', '{$env.nights}', 3],
		['and a boolean', '{$env.no}', false],
		['and null', '{$env.nil}', null],
		['and a list', '{$env.deep.list}', [{ id: 'a' }, { id: 'b' }]],
		['inside a text it is written out', '{$env.nights} nights', '3 nights'],
		['an index goes into a list', '{$env.deep.list[1].id}', 'b'],
		['a name asked of a list gives all', '{$env.deep.list.id}', ['a', 'b']],
		['an empty text is a value', '{$env.empty}', ''],
		['names with a space take the long way', '{$env."nights"}', 3],
		['expressions compute', '{$env.nights * 2 + 1}', 7],
		['steps are known', '{$steps.book.reference}', 'RW-1'],
		['$exists asks without demanding', '{$exists($env.nowhere)}', false],
		['what was asked for may be used', '{$exists($env.nowhere) ? $env.nowhere : "there"}', 'there'],
		['and is, where it is there', '{$exists($env.nights) ? $env.nights : 0}', 3],
		['?? gives another value', '{$env.nowhere ?? "there"}', 'there'],
		['?? gives the value that is there', '{$steps.book.reference ?? "none"}', 'RW-1'],
		['?? asks for an output of a step that has run', '{$steps.book.nothing ?? "none"}', 'none'],
		['?? asks for an output of a step that has not', '{$steps.later.x ?? "none"}', 'none'],
		['whether a step has run at all', '{$exists($steps.later) ? $steps.later.x : "not yet"}', 'not yet']
	])('%s', async (_, text, value) => {
		expect(await createEvaluator().value(text, scope())).toEqual(value);
	});

	test.each<[string, string, Json]>([
		['a name that the expression gives a value', '{$sum(($x := 2; $x * 2))}', 4],
		['a parameter of a function of its own', '{$sum((function($n) { $n + 1 })(2))}', 3],
		['a function that calls itself', '{$sum(($f := function($n) { $n < 1 ? 0 : $n + $f($n - 1) }; $f(3)))}', 6],
		['what a step of a path is bound to', '{$env.deep.list@$one.$one.id}', ['a', 'b']],
		['the place in a list', '{$env.deep.list#$at.$at}', [0, 1]],
		['a function as a value', '{$map([1, 4], $sqrt)}', [1, 2]],
		['a name that may be missing', '{$nowhere ?? "there"}', 'there'],
		['a name that is asked for', '{$exists($nowhere)}', false],
		['what the language calls its input', '{$exists($) or $exists($$)}', true],
		['a list that is gone through', '{$env.deep.list.($ ~> $lookup("id"))}', ['a', 'b']]
	])('%s is known', async (_, text, value) => {
		expect(await createEvaluator().value(text, scope())).toEqual(value);
	});

	test.each([
		['what a step keeps', '{$reference}', '$reference is not set: the step book keeps it as $steps.book.reference'],
		[
			'it in a longer text',
			'a {$uppercase("b" & $reference)}',
			'$reference is not set: the step book keeps it as $steps.book.reference'
		],
		['a step', '{$book.reference}', '$book is not set: what the step book keeps is $steps.book.NAME'],
		['a variable', '{$uppercase($host)}', '$host is not set: the variable is $env.host'],
		['a secret', '{$key}', '$key is not set: the secret is $secret.key'],
		['a misspelt beginning', '{$evn.host}', '$evn is not set: did you mean "env"?'],
		['something else', '{$quay}', '$quay is not set: what a step keeps is $steps.STEP.quay, a variable $env.quay'],
		[
			'the token of no credential',
			'{$token}',
			'$token is not set: what a step keeps is $steps.STEP.token, a variable $env.token'
		]
	])('%s by its bare name is told how it is written', async (_, text, message) => {
		await expect((async () => createEvaluator().value(text, scope()))()).rejects.toThrow(message);
	});

	test.each<[string, string, string]>([
		['a missing variable', '{$env.nowhere}', 'value.missing'],
		['a missing variable beside one that may be missing', '{$env.nobody + ($env.nowhere ?? 1)}', 'value.missing'],
		['a missing variable inside a longer expression', '{$env.nights + $env.nowhere}', 'value.missing'],
		['an output that was not kept', '{$steps.book.nothing}', 'value.missing'],
		['a step that has not run', '{$steps.later.x}', 'value.missing'],
		['a list inside a text', 'all: {$env.deep.list}', 'value.type'],
		['a type that does not fit', '{$env.nights + "x"}', 'value.failed'],
		['words that are no expression', '{$env. nights +}', 'value.syntax'],
		['endless recursion', '{$count(($f := function($n) { 1 + $f($n) }; $f(0)))}', 'value.failed'],
		['a loop that does not end', '{$count(($f := function($n) { $n < 0 ? 0 : $f($n + 1) }; $f(0)))}', 'value.timeout']
	])('%s is refused', async (_, text, wanted) => {
		expect(await code(valueOf(text))).toBe(wanted);
	});

	test.each([
		[
			'an object',
			'all: {$env.deep}',
			'$env.deep gives object, which cannot stand inside a text; it has list: $env.deep.list perhaps'
		],
		['a list', 'all: {$env.deep.list}', '$env.deep.list gives array, which cannot stand inside a text'],
		[
			'what is computed',
			'all: {$merge([$env.deep])}',
			'$merge([$env.deep]) gives object, which cannot stand inside a text; it has list'
		]
	])('%s inside a text is refused with what it has', async (_, text, message) => {
		await expect(valueOf(text)).rejects.toThrow(new RegExp(`^${message.replace(/[$()[\].*+?^|\\]/g, '\\$&')}$`));
	});
	test('a header field that is written large is told how it is written here', async () => {
		await expect(valueOf('{$request.headers.`X-Clerk`}')).rejects.toThrow(/written small here, x-clerk/);
	});

	test.each([
		'{$env.constructor}',
		'{$env.__proto__}',
		'{$env.deep.constructor.constructor("return process")()}',
		'{$lookup($env, "__proto__")}',
		'{$env.deep.list.toString}'
	])('nothing of the host is reached by %s', async (text) => {
		const value = await valueOf(text).catch(() => undefined);
		expect(typeof value === 'function' || (value as unknown) === process).toBe(false);
		expect({}.constructor).toBe(Object);
	});

	test('a pattern that would take for ever is linear', async () => {
		const text = '{$match("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa!", /(a+)+$/)}';
		expect(await code(valueOf(text))).toBe('value.missing');
	});

	test.each([
		['?? after a pattern that is found', String.raw`{$match("lock 7", /(\d)/).groups[0] ?? "none"}`, '7'],
		['?? after a pattern that is not', String.raw`{$match("lock", /(\d)/).groups[0] ?? "none"}`, 'none'],
		['?: after a pattern that is found', String.raw`{$match("lock 7", /(\d)/).groups[0] ?: "none"}`, '7'],
		['one within the other', String.raw`{$string($match("x", /a/).match ?? $match("x", /x/).match) ?? "none"}`, 'x'],
		['?: after a value that may be missing', '{$env.nowhere ?: "none"}', 'none'],
		['?: after a value that is empty', '{$env.empty ?: "none"}', 'none'],
		['?: after a value that is there', '{$env.nights ?: "none"}', 3]
	])('what is taken where nothing is: %s', async (_, text, expected) => expect(await valueOf(text)).toBe(expected));
	test('a choice of its own asks for what it names', async () => {
		expect(await code(valueOf('{$env.nowhere ? $env.nowhere : "none"}'))).toBe('value.missing');
	});

	test('the quick way and the long way agree', async () => {
		for (const path of ['env.nights', 'env.deep.list[0].id', 'row.mooring', 'run.id', 'secret.key']) {
			const quick = await compileExpression(`$${path}`).evaluate(scope());
			const long = await compileExpression(`($${path})`).evaluate(scope());
			expect(quick).toEqual(long);
		}
	});
});

describe('escaping by place', () => {
	const evaluator = createEvaluator();
	test('in an address a value is percent-encoded, $raw is not', async () => {
		expect(await evaluator.text('/x/{$steps.book.blank}', scope(), escapeAddress)).toBe('/x/a%20b%2Fc');
		expect(await evaluator.text('/x/{$raw($steps.book.blank)}', scope(), escapeAddress)).toBe('/x/a b/c');
	});
	test('in XML it is escaped', async () => {
		expect(await evaluator.text('<a>{$string("<&>")}</a>', scope(), escapeXml)).toBe('<a>&lt;&amp;&gt;</a>');
	});
	test('in JSON text it is JSON outside quotes and escaped inside', async () => {
		const text = '{"n": {$env.nights}, "s": "a {$steps.book.blank} \\" {$string("\\"")}", "l": {$env.deep.list}}';
		expect(JSON.parse(await evaluator.jsonText(text, scope()))).toEqual({
			n: 3,
			s: 'a a b/c " "',
			l: [{ id: 'a' }, { id: 'b' }]
		});
	});
	test.each([
		['/a b', '/a%20b'],
		['/%41%zz', '/%41%25zz'],
		['/ü?x=[1]', '/%C3%BC?x=[1]'],
		['/a"b', '/a%22b']
	])('literal address %s becomes %s', (from, to) => expect(tidyAddress(from)).toBe(to));
});

describe('variables', () => {
	const layers = (project: JsonObject, environment: JsonObject = {}, set: JsonObject = {}) => ({
		project,
		environment,
		local: {},
		set,
		row: {}
	});
	const resolve = (l: ReturnType<typeof layers>) =>
		resolveVariables(l, { secret: { key: 'k' }, run: { id: 'r' } }, ports());

	test('later layers win', async () => {
		expect((await resolve(layers({ a: 1, b: 1, c: 1 }, { b: 2, c: 2 }, { c: 3 }))).env).toEqual({ a: 1, b: 2, c: 3 });
	});
	test('a variable may use others, in any order and over layers', async () => {
		const { env } = await resolve(layers({ url: '{$env.host}/v1', host: 'h:{$env.port}' }, { port: 80 }));
		expect(env).toEqual({ url: 'h:80/v1', host: 'h:80', port: 80 });
	});
	test('a circle is named, and only hurts those who ask', async () => {
		const { env, broken } = await resolve(layers({ a: '{$env.b}', b: '{$env.a}', c: 1 }));
		expect(env).toEqual({ c: 1 });
		expect(broken.get('env.a')?.message).toContain('$env.a → $env.b → $env.a');
	});
	test('made-up values stay the same within a run', async () => {
		const { env } = await resolve(layers({ id: '{$uuid()}', again: '{$env.id}' }));
		expect(env.again).toBe(env.id);
	});
});

describe('functions', () => {
	const evaluator = createEvaluator();
	test.each(functions.list.map((fn) => [fn.name, fn] as const))('$%s does what its example says', async (_, fn) => {
		const { expression, gives, matches } = fn.example;
		const value = await evaluator.expression(expression, scope());
		if (matches) expect(String(value)).toMatch(matches);
		else expect(value instanceof Raw ? value : value).toEqual(gives);
	});
	describe('$resolve, by the examples of RFC 3986 section 5.4 from http://a/b/c/d;p?q on', () => {
		const base = 'http://a/b/c/d;p?q';
		// an authority without a path is written with one: section 6.2.3 takes both for the same
		test.each([
			['g:h', 'g:h'],
			['g', 'http://a/b/c/g'],
			['./g', 'http://a/b/c/g'],
			['g/', 'http://a/b/c/g/'],
			['/g', 'http://a/g'],
			['//g', 'http://g/'],
			['?y', 'http://a/b/c/d;p?y'],
			['g?y', 'http://a/b/c/g?y'],
			['#s', 'http://a/b/c/d;p?q#s'],
			['g#s', 'http://a/b/c/g#s'],
			['g?y#s', 'http://a/b/c/g?y#s'],
			[';x', 'http://a/b/c/;x'],
			['g;x', 'http://a/b/c/g;x'],
			['g;x?y#s', 'http://a/b/c/g;x?y#s'],
			['', 'http://a/b/c/d;p?q'],
			['.', 'http://a/b/c/'],
			['./', 'http://a/b/c/'],
			['..', 'http://a/b/'],
			['../', 'http://a/b/'],
			['../g', 'http://a/b/g'],
			['../..', 'http://a/'],
			['../../', 'http://a/'],
			['../../g', 'http://a/g'],
			['../../../g', 'http://a/g'],
			['../../../../g', 'http://a/g'],
			['/./g', 'http://a/g'],
			['/../g', 'http://a/g'],
			['g.', 'http://a/b/c/g.'],
			['.g', 'http://a/b/c/.g'],
			['g..', 'http://a/b/c/g..'],
			['..g', 'http://a/b/c/..g'],
			['./../g', 'http://a/b/g'],
			['./g/.', 'http://a/b/c/g/'],
			['g/./h', 'http://a/b/c/g/h'],
			['g/../h', 'http://a/b/c/h'],
			['g;x=1/./y', 'http://a/b/c/g;x=1/y'],
			['g;x=1/../y', 'http://a/b/c/y'],
			['g?y/./x', 'http://a/b/c/g?y/./x'],
			['g?y/../x', 'http://a/b/c/g?y/../x'],
			['g#s/./x', 'http://a/b/c/g#s/./x'],
			['g#s/../x', 'http://a/b/c/g#s/../x']
		])('"%s" means %s', async (reference, address) => {
			expect(await evaluator.expression(`$resolve(${JSON.stringify(reference)}, "${base}")`, scope())).toBe(address);
		});
		test('a base that is no address, and a reference that leads nowhere, are errors that name them', async () => {
			await expect(evaluator.expression('$resolve("/g", "/v1")', scope())).rejects.toThrow('"/v1" is none');
			await expect(evaluator.expression('$resolve("http://[", "http://a")', scope())).rejects.toThrow('leads nowhere');
		});
	});
	test.each<[string, Json]>([
		// RFC 4231 test case 2 with other digests, RFC 1321, FIPS 180-4
		[
			'$hmac("sha512", "Jefe", "what do ya want for nothing?")',
			'164b7a7bfcf819e2e395fbe73b56e0a387bd64222e831fd610270cd7ea2505549758bf75c05a994a6d034f65f8f0e6fdcaeab1a34d4a6b4b636e070a38bce737'
		],
		['$hash("md5", "message digest")', 'f96b697d7cb7938d525a2f31aaf161d0'],
		['$hash("sha1", "abc", "base64")', 'qZk+NkcGgWq6PiVxeFDCbJzQ2J0='],
		[
			'$hmac("sha256", "hex:4a656665", "what do ya want for nothing?")',
			'5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843'
		],
		// RFC 7519 section 3.1 gives the claims; the HMAC is over exactly these bytes
		['$base64url("{\\"typ\\":\\"JWT\\"}")', 'eyJ0eXAiOiJKV1QifQ'],
		['$date("http")', 'Fri, 14 May 2027 06:30:15 GMT'],
		['$date("yyyy-MM-dd HH:mm:ss.SSS", "-90 min")', '2027-05-14 05:00:15.042'],
		['$date("yyyy-MM-dd", "+1 month")', '2027-06-14'],
		['$date("yyyy-MM-dd", "-15 months")', '2026-02-14'],
		['$date("yyyy-MM-dd", "+1 year")', '2028-05-14'],
		['$date("yyyyMMddTHHmmssZ", "2 w")', '20270528T063015Z'],
		['$base64("ü")', 'w7w='],
		['$base64Decode("w7w")', 'ü']
	])('%s', async (expression, value) => {
		expect(await evaluator.expression(expression, scope())).toEqual(value);
	});
	test('every kind of made-up value gives something, the same for the same seed', async () => {
		for (const kind of functions.fakeKinds) {
			const source = `$fake.${kind}(${kind === 'choice' ? '"a", "b"' : ''})`;
			const first = await evaluator.expression(source, scope());
			expect(first, kind).not.toBeUndefined();
			expect(await evaluator.expression(source, scope()), kind).toEqual(first);
		}
	});
	test('$unique gives letters and digits alone, whatever the clock counts', async () => {
		const clock = { ...scope(), ports: { ...ports(), now: () => 1_900_000_000_000.625 } };
		expect(await createEvaluator().expression('$unique("boat-")', clock)).toMatch(/^boat-[a-z\d]+$/);
	});
	test('$unique never gives the same twice', async () => {
		const one = scope();
		const seen = new Set(await Promise.all(Array.from({ length: 500 }, () => evaluator.expression('$unique()', one))));
		expect(seen.size).toBe(500);
	});
	test.each([
		['the last day of January', Date.UTC(2027, 0, 31), '+1 month', '2027-02-28'],
		['the same of a leap year', Date.UTC(2028, 0, 31), '+1 month', '2028-02-29'],
		['the leap day', Date.UTC(2028, 1, 29), '-1 year', '2027-02-28'],
		['the end of a year', Date.UTC(2027, 11, 31), '+2 months', '2028-02-29']
	])('a month from a day that it does not have is its last one: %s', async (_, now, offset, expected) => {
		const at = { ...scope(), ports: { ...ports(), now: () => now } };
		expect(await createEvaluator().value(`{$date("yyyy-MM-dd", "${offset}")}`, at)).toBe(expected);
	});
	test.each(['EEE, dd MM', 'dd MMM yyyy', 'yy', 'd.M.yyyy', 'hh:mm', 'MMMM'])(
		'a pattern with what is no field of a time is refused: %s',
		async (pattern) => {
			expect(await code(valueOf(`{$date("${pattern}")}`))).toBe('value.failed');
		}
	);
	test.each([
		'$hash("crc32", "x")',
		'$file("../secret")',
		'$date("iso", "soon")',
		'$date("iso", "1.5 months")',
		'$randomText(-1)'
	])('%s says what is wrong', async (expression) => {
		expect(await code(evaluator.expression(expression, scope()))).toBe('value.failed');
	});
});

describe('what is larger than anybody meant', () => {
	const evaluator = createEvaluator();
	const big = 'ä"<'.repeat(3_500_000);
	test('a value of ten million letters goes into every place whole', async () => {
		const given = scope();
		given.names.env.big = big;
		expect(await evaluator.value('{$env.big}', given)).toBe(big);
		const json = await evaluator.jsonText('{ "a": "x{$env.big}" }', given);
		expect((JSON.parse(json) as { a: string }).a).toHaveLength(big.length + 1);
		const address = await evaluator.text('/a/{$env.big}', given, escapeAddress);
		expect(decodeURIComponent(address)).toHaveLength(big.length + 3);
		expect(await evaluator.expression('$length($env.big)', given)).toBe(big.length);
	});
	test.each([
		['a function that calls itself for ever', '($f := function($n) { 1 + $f($n + 1) }; $f(1))'],
		['a tail call for ever', '($f := function($n) { $f($n + 1) }; $f(1))'],
		['a list without end', '[1..100000000]'],
		[
			'a list of lists',
			'($a := [1..1000]; $sum($map($a, function($x) { $sum($map($a, function($y) { $sum($map($a, function($z) { $x * $y * $z })) })) })))'
		],
		['brackets ten thousand deep', `${'('.repeat(10_000)}1${')'.repeat(10_000)}`]
	])('%s is cut off and named', async (_, source) => {
		await expect(evaluator.expression(source, scope())).rejects.toMatchObject({
			code: expect.stringMatching(/^value\.(timeout|failed|syntax)$/) as string
		});
	});
	test('data ten thousand levels deep is refused, and nothing falls over', async () => {
		let deep: Json = '{$env.host}';
		for (let i = 0; i < 10_000; i++) deep = [deep];
		await expect(
			Promise.resolve(evaluator.deep(deep, scope())).then((value) => JSON.stringify(value).length)
		).resolves.toBeGreaterThan(10_000);
	});
});

describe('$fake.matching', () => {
	test.each([
		'[A-Z]{2}[0-9]{4}',
		'^RW-\\d{6}$',
		'(barge|dinghy)-\\w+',
		'[a-f0-9]{8}(-[a-f0-9]{4}){3}',
		'\\S+@\\w+\\.example',
		'[^0-9]{3}',
		'a?b*c+',
		'.{5}',
		'\\[\\d\\]'
	])('a text for %s is one that it matches whole', async (pattern) => {
		const evaluator = createEvaluator();
		for (let seed = 1; seed <= 20; seed++) {
			const from = { ...scope(), ports: { ...ports(), seed } };
			const made = await evaluator.value(`{$fake.matching(${JSON.stringify(pattern)})}`, from);
			expect(String(made)).toMatch(new RegExp(`^(?:${pattern.replace(/^\^|\$$/g, '')})$`));
		}
	});
	test.each([
		['a{2000000}', /more than 1000 times/],
		['(?=x)y', /matching|pattern/i]
	])('%s is refused in words', async (pattern, expected) => {
		await expect(createEvaluator().value(`{$fake.matching("${pattern}")}`, scope())).rejects.toThrow(expected);
	});
});
