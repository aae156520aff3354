import type { Wordings } from './wording.ts';

/** Values, datasets, selectors and checks. */
export const values = {
	'value.syntax': ['in {expression}: {detail}', { expression: '{$env.base +}', detail: 'it ends too early' }],
	'value.unclosed': [
		'the expression that starts with "{start}" is not closed: a "}" is missing',
		{ start: '{$env.ba' }
	],
	'value.missing': ['{name} is not set{hint}', { name: '$env.clerk', hint: '' }],
	'value.later': 'it uses a token that is fetched only when it is sent: sign in first to see it whole',
	'value.cycle': ['variables refer to each other in a circle: {circle}', { circle: 'base → host → base' }],
	'value.type': [
		'{expression} gives {type}, which cannot stand inside a text',
		{ expression: '$env.base', type: 'an object' }
	],
	'value.failed': [
		'{expression} could not be computed: {detail}',
		{ expression: '$number("x")', detail: '"x" is no number' }
	],
	'value.timeout': ['{expression} took longer than {limit} and was cut off', { expression: '$env.base', limit: '1 s' }],
	'value.template': [
		'{text} in the address is no expression of a URI template (RFC 6570): {name}, {+name}, {?name*} are some',
		{ text: '{?}' }
	],
	'value.xml': [
		'a value holds {character}, which XML cannot: a body of text sends it as it is',
		{ character: 'U+0001' }
	],
	'value.dots': [
		'the value {value} of {name} would lead to another path: a server never sees it as it is',
		{ value: '..', name: 'boat' }
	],
	'value.path': [
		'the path asks for {name}, and the step gives it no value: add it as a path parameter',
		{ name: 'boat' }
	],
	'value.header': [
		'{where} "{name}" would hold a line break or control character, which HTTP does not allow',
		{ where: 'the header', name: 'X-Note' }
	],
	'value.address': ['{address} is not an address: it should look like https://host/path', { address: 'api.reedmere' }],
	'value.port': [
		'{address} has a colon behind its host and no port: what fills it in may be empty',
		{ address: 'http://api.reedmere.example:/' }
	],
	'value.body': [
		'the body is not valid {kind} once its values are filled in: {detail}',
		{ kind: 'JSON', detail: 'a comma is missing in line 3' }
	],
	'value.duration': ['"{text}" is not a duration, such as {example}', { text: 'soon', example: '10 s' }],
	'value.unsent': 'it is known only when something is sent',
	'body.kind': ['unknown kind of body "{kind}"', { kind: 'jsn' }],
	'dataset.none': [
		'there is no dataset "{name}" in datasets/{nearest}',
		{ name: 'boat', nearest: ': did you mean "boats"?' }
	],
	'dataset.several': [
		'"{name}" may be {files}: write which one is meant',
		{ name: 'boats', files: 'boats.csv and boats.json' }
	],
	'dataset.kind': ['{file} is not a dataset: csv, tsv, json, yaml, xlsx and ods are', { file: 'datasets/boats.txt' }],
	'dataset.large': [
		'{file} is too large to be read whole (more than {limit})',
		{ file: 'datasets/boats.xlsx', limit: '50 MB' }
	],
	'dataset.list': [
		'{file} holds {type}; a list with an object for each row is wanted{hint}',
		{ file: 'datasets/boats.json', type: 'an object', hint: '' }
	],
	'dataset.syntax': ['{file}: {detail}', { file: 'datasets/boats.csv', detail: 'line 3: a quote is not closed' }],
	'dataset.column': [
		'{file} has no column "{column}"{nearest}',
		{ file: 'datasets/boats.csv', column: 'nmae', nearest: ': did you mean "name"?' }
	],
	'dataset.wide': [
		'{file} has {count} columns; a dataset may have up to {limit}',
		{ file: 'datasets/boats.csv', count: 2000, limit: 1000 }
	],
	'dataset.row': [
		'row {number} of {file} cannot be used: {detail}',
		{ number: 3, file: 'datasets/boats.csv', detail: 'length is no number' }
	],
	'dataset.made': ['{column} cannot be made: {detail}', { column: 'code', detail: '$fake has no function boat' }],
	'dataset.empty': ['{file} has no row that is chosen{hint}', { file: 'datasets/boats.csv', hint: '' }],
	'dataset.wanted': 'a dataset is wanted',
	'rows.none': 'nothing that is chosen runs over rows: add rows: to a scenario, or use $row in it',
	'rows.take': ['"{take}" does not name rows: 1-10, 15 or 20- does', { take: 'x-y' }],
	'selector.syntax': [
		'the selector {selector} cannot be read: {detail}',
		{ selector: '$.items[', detail: 'a ] is missing' }
	],
	'selector.body': ['the body is not JSON: {detail}', { detail: 'it starts with <html>' }],
	'selector.xml': ['the body is not XML: {detail}', { detail: 'it is JSON' }],
	'selector.slow': [
		'{selector} was stopped after {limit}: make its path more exact',
		{ selector: '$.items[0]', limit: '1 s' }
	],
	'selector.noXml': 'XML cannot be read here',
	'xml.wrong': [
		'{file}this is not well-formed XML: {detail}',
		{ file: 'line 3: ', detail: 'the element boat is not closed' }
	],
	'baseline.wrong': [
		'the baseline {file} cannot be read: {detail}',
		{ file: 'baselines/boats.json', detail: 'it is not JSON' }
	],
	'schema.wrong': [
		'the schema {file} cannot be used: {detail}',
		{ file: 'schemas/boat.json', detail: 'type is "nubmer"' }
	],
	'pattern.slow': [
		'the pattern {pattern} was stopped after {limit} at one text: look-around and back-references can take for ever',
		{ pattern: '(a+)+$', limit: '1 s' }
	],
	'pattern.syntax': ['the pattern {pattern} cannot be read: {detail}', { pattern: '[a', detail: 'a ] is missing' }],
	'check.judge': ['the check could not be judged: {detail}', { detail: 'XML cannot be read here' }],
	'step.timeout': ['the step took longer than {limit}', { limit: '30 s' }],
	'step.order': ['$steps.{name} is used before step {name} has run', { name: 'sign-in' }],
	'step.noAnswer': 'there is no answer to look at',
	'step.noRequest': 'only a step that sends has a request'
} satisfies Wordings;
