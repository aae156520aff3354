import type { Wordings } from './wording.ts';

/** Runs, stand-ins, definitions and recordings. */
export const services = {
	'run.guarded': [
		'{environment} is guarded, and {count} may change something there{how}',
		{ environment: 'production', count: '3 calls', how: ': --allow-guarded says that you mean it' }
	],
	'run.standIn': [
		'in {environment} the stand-in {name} answers, and it does not run: start it first',
		{ environment: 'local', name: 'gatehouse' }
	],
	'run.called': ['a step of {target} could not be carried out', { target: 'berths/sign-in' }],
	'run.crashed': ['it was ended before it was done: {detail}', { detail: 'it needs more memory than it may have' }],
	'run.many': ['{count} going on already: wait until one has ended, or stop one', { count: '16 runs are' }],
	'run.interrupted': 'the server was stopped while this ran',
	'run.target': [
		'there is no suite, collection or collection/scenario "{name}"{nearest}',
		{ name: 'boking', nearest: ': did you mean "bookings"?' }
	],
	'run.results': ['there are no results of "{name}"{nearest}', { name: 'fautls', nearest: ': did you mean "faults"?' }],
	'run.running': 'the run goes on: stop it first',
	'run.unended': 'the run goes on: it can be taken out when it has ended',
	'standIn.path': ['the path of {id} has no {name}{nearest}', { id: 'release', name: '{boat}', nearest: '' }],
	'standIn.port': [
		'the port {port} that {name} wants is taken: give it another one, or none for any that is free',
		{ port: 4601, name: 'gatehouse' }
	],
	'standIn.restart': ['{name} has another port, base or TLS now: stop it and start it again', { name: 'gatehouse' }],
	'standIn.loop': ['it came from here before: {name} is passed on to itself in a circle', { name: 'gatehouse' }],
	'standIn.call': ['{name} makes no call "{id}" by itself{nearest}', { name: 'gatehouse', id: 'closed', nearest: '' }],
	'standIn.refused': ['{answer}: {detail}', { answer: 'release', detail: '$.id must be a number' }],
	'standIn.none': [
		'the project has no stand-in "{name}"{nearest}',
		{ name: 'gatehous', nearest: ': did you mean "gatehouse"?' }
	],
	'standIn.webhook': [
		'{definition} has no webhook {name}{nearest}',
		{ definition: 'definitions/boats/boats.yaml', name: 'closd', nearest: ': did you mean "closed"?' }
	],
	'standIn.operation': [
		'{name} is an operation of a WSDL: definition: says of which; a path starts with a slash',
		{ name: 'Record' }
	],
	'standIn.fault': [
		'"{fault}" is no fault of {name}: {detail}',
		{ fault: 'sloow', name: 'gatehouse', detail: 'known are slow, down' }
	],
	'standIn.many': ['{count} stand-ins run on this server already: stop one', { count: 20 }],
	'standIn.unreachable': ['the stand-in cannot be asked: {detail}', { detail: 'connection refused' }],
	'standIn.control': ['the stand-in refused it: {detail}', { detail: 'there is no resource boats' }],
	'standIn.stopped': ['the stand-in {name} does not run', { name: 'gatehouse' }],
	'reach.target': [
		'there is no connection "{name}"{nearest}; an address starts with https:// or http://',
		{ name: 'boking', nearest: ': did you mean "bookings"?' }
	],
	'definition.wrong': [
		'{file} is not a definition that can be read: {detail}',
		{ file: 'definitions/boats/boats.yaml', detail: 'it does not say openapi: 3.1.0' }
	],
	'definition.operation': [
		'there is no operation "{name}" in definitions/{nearest}',
		{ name: 'Recrd', nearest: ': did you mean "Record"?' }
	],
	'definition.several': [
		'{name} is in {files}: definition: says which is meant, and without it {taken} is',
		{ name: 'Record', files: 'a.wsdl and b.wsdl', taken: 'a.wsdl' }
	],
	'definition.value': ['{name}: {detail}', { name: 'Record', detail: 'the element Toll is missing' }],
	'definition.none': [
		'there is no definition for this step: {detail}',
		{ detail: 'definitions/ holds no OpenAPI document' }
	],
	'definition.ambiguous': [
		'{call} is in {files}: name one of them as definition: in the connection',
		{ call: 'GET /boats', files: 'boats.yaml and berths.yaml' }
	],
	'definition.unknown': ['{call} is in none of {files}{hint}', { call: 'GET /boats', files: 'boats.yaml', hint: '' }],
	'definition.absent': ['{call} is not in {file}', { call: 'GET /boats', file: 'boats.yaml' }],
	'definition.noOperation': ['the request is no operation of {file}', { file: 'ledger.wsdl' }],
	'definition.answer': [
		'{address} answers {status}',
		{ address: 'https://api.reedmere.example/openapi.json', status: 404 }
	],
	'exchange.quote': [
		'the quote {quote} in line {line}, column {column} is not closed',
		{ quote: '"', line: 12, column: 3 }
	],
	'exchange.har': ['this is no HTTP Archive (HAR 1.2): {detail}', { detail: 'log.entries is missing' }],
	'exchange.none': ['no call can be read: {detail}', { detail: 'it is longer than 5 MB' }]
} satisfies Wordings;
