import { describe, expect, test } from 'vitest';
import type { Json } from './json.ts';
import { expandUri, uriExpression } from './uri-template.ts';

// RFC 6570 section 3.2: the values of all examples
const values = new Map<string, Json>([
	['count', ['one', 'two', 'three']],
	['dom', ['example', 'com']],
	['dub', 'me/too'],
	['hello', 'Hello World!'],
	['half', '50%'],
	['var', 'value'],
	['who', 'fred'],
	['base', 'http://example.com/home/'],
	['path', '/foo/bar'],
	['list', ['red', 'green', 'blue']],
	['keys', { semi: ';', dot: '.', comma: ',' }],
	['v', '6'],
	['x', '1024'],
	['y', '768'],
	['empty', ''],
	['empty_keys', {}],
	['undef', null]
]);
const expand = (template: string): string =>
	template.replace(/\{([^{}]+)\}/g, (_, text: string) => expandUri({ text, names: [] }, values));

describe('the examples of RFC 6570', () => {
	const table: [string, [string, string][]][] = [
		[
			'3.2.1 variable expansion',
			[
				['{count}', 'one,two,three'],
				['{count*}', 'one,two,three'],
				['{/count}', '/one,two,three'],
				['{/count*}', '/one/two/three'],
				['{;count}', ';count=one,two,three'],
				['{;count*}', ';count=one;count=two;count=three'],
				['{?count}', '?count=one,two,three'],
				['{?count*}', '?count=one&count=two&count=three'],
				['{&count*}', '&count=one&count=two&count=three']
			]
		],
		[
			'3.2.2 simple strings',
			[
				['{var}', 'value'],
				['{hello}', 'Hello%20World%21'],
				['{half}', '50%25'],
				['O{empty}X', 'OX'],
				['O{undef}X', 'OX'],
				['{x,y}', '1024,768'],
				['{x,hello,y}', '1024,Hello%20World%21,768'],
				['?{x,empty}', '?1024,'],
				['?{x,undef}', '?1024'],
				['?{undef,y}', '?768'],
				['{var:3}', 'val'],
				['{var:30}', 'value'],
				['{list}', 'red,green,blue'],
				['{list*}', 'red,green,blue'],
				['{keys}', 'semi,%3B,dot,.,comma,%2C'],
				['{keys*}', 'semi=%3B,dot=.,comma=%2C']
			]
		],
		[
			'3.2.3 reserved expansion',
			[
				['{+var}', 'value'],
				['{+hello}', 'Hello%20World!'],
				['{+half}', '50%25'],
				['{base}index', 'http%3A%2F%2Fexample.com%2Fhome%2Findex'],
				['{+base}index', 'http://example.com/home/index'],
				['O{+empty}X', 'OX'],
				['O{+undef}X', 'OX'],
				['{+path}/here', '/foo/bar/here'],
				['here?ref={+path}', 'here?ref=/foo/bar'],
				['up{+path}{var}/here', 'up/foo/barvalue/here'],
				['{+x,hello,y}', '1024,Hello%20World!,768'],
				['{+path,x}/here', '/foo/bar,1024/here'],
				['{+path:6}/here', '/foo/b/here'],
				['{+list}', 'red,green,blue'],
				['{+list*}', 'red,green,blue'],
				['{+keys}', 'semi,;,dot,.,comma,,'],
				['{+keys*}', 'semi=;,dot=.,comma=,']
			]
		],
		[
			'3.2.4 fragments',
			[
				['{#var}', '#value'],
				['{#hello}', '#Hello%20World!'],
				['{#half}', '#50%25'],
				['foo{#empty}', 'foo#'],
				['foo{#undef}', 'foo'],
				['{#x,hello,y}', '#1024,Hello%20World!,768'],
				['{#path,x}/here', '#/foo/bar,1024/here'],
				['{#path:6}/here', '#/foo/b/here'],
				['{#list}', '#red,green,blue'],
				['{#keys}', '#semi,;,dot,.,comma,,'],
				['{#keys*}', '#semi=;,dot=.,comma=,']
			]
		],
		[
			'3.2.5 labels',
			[
				['{.who}', '.fred'],
				['{.who,who}', '.fred.fred'],
				['{.half,who}', '.50%25.fred'],
				['www{.dom*}', 'www.example.com'],
				['X{.var}', 'X.value'],
				['X{.empty}', 'X.'],
				['X{.undef}', 'X'],
				['X{.var:3}', 'X.val'],
				['X{.list}', 'X.red,green,blue'],
				['X{.list*}', 'X.red.green.blue'],
				['X{.keys}', 'X.semi,%3B,dot,.,comma,%2C'],
				['X{.keys*}', 'X.semi=%3B.dot=..comma=%2C'],
				['X{.empty_keys}', 'X'],
				['X{.empty_keys*}', 'X']
			]
		],
		[
			'3.2.6 path segments',
			[
				['{/who}', '/fred'],
				['{/who,who}', '/fred/fred'],
				['{/half,who}', '/50%25/fred'],
				['{/who,dub}', '/fred/me%2Ftoo'],
				['{/var}', '/value'],
				['{/var,empty}', '/value/'],
				['{/var,undef}', '/value'],
				['{/var,x}/here', '/value/1024/here'],
				['{/var:1,var}', '/v/value'],
				['{/list}', '/red,green,blue'],
				['{/list*}', '/red/green/blue'],
				['{/list*,path:4}', '/red/green/blue/%2Ffoo'],
				['{/keys}', '/semi,%3B,dot,.,comma,%2C'],
				['{/keys*}', '/semi=%3B/dot=./comma=%2C']
			]
		],
		[
			'3.2.7 path parameters',
			[
				['{;who}', ';who=fred'],
				['{;half}', ';half=50%25'],
				['{;empty}', ';empty'],
				['{;v,empty,who}', ';v=6;empty;who=fred'],
				['{;v,bar,who}', ';v=6;who=fred'],
				['{;x,y}', ';x=1024;y=768'],
				['{;x,y,empty}', ';x=1024;y=768;empty'],
				['{;x,y,undef}', ';x=1024;y=768'],
				['{;hello:5}', ';hello=Hello'],
				['{;list}', ';list=red,green,blue'],
				['{;list*}', ';list=red;list=green;list=blue'],
				['{;keys}', ';keys=semi,%3B,dot,.,comma,%2C'],
				['{;keys*}', ';semi=%3B;dot=.;comma=%2C']
			]
		],
		[
			'3.2.8 queries',
			[
				['{?who}', '?who=fred'],
				['{?half}', '?half=50%25'],
				['{?x,y}', '?x=1024&y=768'],
				['{?x,y,empty}', '?x=1024&y=768&empty='],
				['{?x,y,undef}', '?x=1024&y=768'],
				['{?var:3}', '?var=val'],
				['{?list}', '?list=red,green,blue'],
				['{?list*}', '?list=red&list=green&list=blue'],
				['{?keys}', '?keys=semi,%3B,dot,.,comma,%2C'],
				['{?keys*}', '?semi=%3B&dot=.&comma=%2C']
			]
		],
		[
			'3.2.9 continued queries',
			[
				['{&who}', '&who=fred'],
				['{&half}', '&half=50%25'],
				['?fixed=yes{&x}', '?fixed=yes&x=1024'],
				['{&x,y,empty}', '&x=1024&y=768&empty='],
				['{&x,y,undef}', '&x=1024&y=768'],
				['{&var:3}', '&var=val'],
				['{&list}', '&list=red,green,blue'],
				['{&list*}', '&list=red&list=green&list=blue'],
				['{&keys}', '&keys=semi,%3B,dot,.,comma,%2C'],
				['{&keys*}', '&semi=%3B&dot=.&comma=%2C']
			]
		]
	];
	for (const [section, examples] of table)
		test.each(examples)(`${section}: %s is %s`, (template, expected) => {
			expect(expand(template)).toBe(expected);
		});
});

describe('what stands between braces', () => {
	test.each<[string, string[] | undefined]>([
		['id', undefined],
		['+path', ['path']],
		['?q*,page', ['q', 'page']],
		['x,y', ['x', 'y']],
		['var:3', ['var']],
		['=odd', undefined],
		['?', undefined],
		['a b', undefined],
		['var:0', undefined]
	])('%s names %j', (text, names) => {
		expect(uriExpression(text)?.names).toEqual(names);
	});
});
