import { describe, expect, test } from 'vitest';
import { loadProject } from '../project/index.ts';
import { allScenarios, inheritedCredential, whereUsed } from './index.ts';

const sources = Object.entries({
	'heron.yaml': 'heron: 1\n',
	'environments/local.yaml': 'heron: 1\n',
	'environments/staging.yaml': 'heron: 1\n',
	'credentials/warden.yaml': 'heron: 1\nkind: none\n',
	'credentials/keeper.yaml': 'heron: 1\nkind: none\n',
	'credentials/clerk.yaml': 'heron: 1\nkind: none\n',
	'connections/gate.yaml':
		'heron: 1\nbase: https://gate.example\ncredential: warden\nenvironments: { staging: { credential: keeper } }\n',
	'connections/other.yaml': 'heron: 1\nbase: https://other.example\n',
	'collections/a.yaml': `heron: 1
title: A
connection: gate
scenarios:
  - id: plain
    steps:
      - { id: inherits, send: GET / }
      - { id: own, send: GET /, credential: clerk }
      - { id: nobody, send: GET /, credential: none }
      - { id: elsewhere, send: GET /, connection: other }
      - { id: absolute, send: "GET https://strangers.example/" }
      - { id: waits, wait: 1 ms }
  - id: scenario
    credential: clerk
    steps:
      - { id: inherits, send: GET / }
      - { id: elsewhere, send: GET /, connection: other }
`,
	'collections/b.yaml': `heron: 1
title: B
connection: gate
credential: keeper
scenarios:
  - id: own
    steps: [{ id: a, send: GET / }]
  - id: strange
    connection: other
    steps: [{ id: a, send: GET / }]
`
}).map(([path, text]) => ({ path, text }));
const { workspace } = loadProject(sources, new Set(sources.map((one) => one.path)));

describe('a step signs in as', () => {
	const inherited = (collection: string, scenario: string, step: string, environment = 'local') => {
		const chosen = allScenarios(workspace).find((one) => one.key === `${collection}/${scenario}`)!;
		const { send } = chosen.scenario.steps.find((one) => one.id === step)!;
		return inheritedCredential(workspace, chosen, send!, environment);
	};
	test('the project is right', () => {
		expect(workspace.problems).toEqual([]);
	});
	test.each<[string, [string, string, string, string?], { name: string; from: string }]>([
		['its connection’s credential', ['a', 'plain', 'inherits'], { name: 'warden', from: 'connection' }],
		['what differs in the environment', ['a', 'plain', 'inherits', 'staging'], { name: 'keeper', from: 'connection' }],
		['its own', ['a', 'plain', 'own'], { name: 'clerk', from: 'step' }],
		['nobody, where it says so', ['a', 'plain', 'nobody'], { name: '', from: 'step' }],
		['nobody elsewhere', ['a', 'plain', 'elsewhere'], { name: '', from: '' }],
		['nobody at an absolute address', ['a', 'plain', 'absolute'], { name: '', from: '' }],
		['its scenario’s', ['a', 'scenario', 'inherits'], { name: 'clerk', from: 'scenario' }],
		['not its scenario’s elsewhere', ['a', 'scenario', 'elsewhere'], { name: '', from: '' }],
		['its collection’s', ['b', 'own', 'a'], { name: 'keeper', from: 'collection' }],
		['not its collection’s in a scenario that goes elsewhere', ['b', 'strange', 'a'], { name: '', from: '' }]
	])('%s', (_, [collection, scenario, step, environment], wanted) => {
		expect(inherited(collection, scenario, step, environment)).toEqual(wanted);
	});
});

describe('where something is used', () => {
	const uses = whereUsed(workspace, 'local');
	test('is counted by collection, with the first places', () => {
		expect(uses.connections.get('gate')).toEqual([
			{
				collection: 'a',
				title: 'A',
				steps: 5,
				some: ['plain/inherits', 'plain/own', 'plain/nobody', 'plain/absolute', 'scenario/inherits']
			},
			{ collection: 'b', title: 'B', steps: 1, some: ['own/a'] }
		]);
		expect(uses.credentials.get('clerk')).toMatchObject([{ collection: 'a', steps: 2 }]);
		expect(uses.credentials.get('warden')).toMatchObject([{ collection: 'a', some: ['plain/inherits'] }]);
	});
	test('is another matter in another environment', () => {
		expect(whereUsed(workspace, 'staging').credentials.get('warden')).toBeUndefined();
		expect(uses.connectionsByCredential.get('warden')).toEqual(['gate']);
		expect(whereUsed(workspace, 'staging').connectionsByCredential.get('keeper')).toEqual(['gate']);
	});
});
