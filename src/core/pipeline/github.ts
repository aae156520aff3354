import {
	checkCommand,
	HISTORY_FOLDER,
	mergeCommand,
	partCommand,
	publishTokens,
	readTokens,
	runCommand
} from './commands.ts';
import type { PipelineChoice, PipelineKind } from './kind.ts';
import { yamlOf } from './yaml.ts';

const expression = (text: string): string => `\${{ ${text} }}`;

type Steps = readonly object[];

const given = (names: readonly string[]): object =>
	names.length > 0 ? { env: Object.fromEntries(names.map((name) => [name, expression(`secrets.${name}`)])) } : {};

const ready = ({ install }: PipelineChoice): Steps => [
	{ uses: 'actions/checkout@v4' },
	{ uses: 'actions/setup-node@v4', with: { 'node-version': 20 } },
	{ run: install }
];

/** What a gate remembers comes from the run before, and is kept for the next. */
const remember = ({ history }: PipelineChoice): Steps =>
	history
		? [
				{
					uses: 'actions/cache@v4',
					with: {
						path: HISTORY_FOLDER,
						key: `heron-${expression('github.ref_name')}-${expression('github.run_id')}`,
						'restore-keys': `heron-${expression('github.ref_name')}-\nheron-main-\n`
					}
				},
				{ run: `mkdir -p ${HISTORY_FOLDER}` }
			]
		: [];

const keep = (name: string, path: string): object => ({
	if: expression('always()'),
	uses: 'actions/upload-artifact@v4',
	with: { name, path }
});

/** Where results are shown and kept. */
const results = ({ reports }: PipelineChoice): Steps => [
	...(reports.includes('markdown')
		? [{ if: expression('always()'), run: 'cat out/summary.md >> "$GITHUB_STEP_SUMMARY"' }]
		: []),
	keep('api-tests', 'out')
];

const whole = (choice: PipelineChoice): object => ({
	'runs-on': 'ubuntu-latest',
	steps: [
		...ready(choice),
		...remember(choice),
		{ run: 'mkdir -p out' },
		{ run: checkCommand({ ...choice, environment: '' }), ...given(readTokens(choice)) },
		{ run: runCommand(choice), ...given([...choice.secrets, ...publishTokens(choice)]) },
		...results(choice)
	]
});

const part = (choice: PipelineChoice): object => ({
	'runs-on': 'ubuntu-latest',
	strategy: { 'fail-fast': false, matrix: { part: Array.from({ length: choice.shards }, (_, n) => n + 1) } },
	steps: [
		...ready(choice),
		{ run: 'mkdir -p parts' },
		{
			run: partCommand(choice, expression('matrix.part'), String(choice.shards)),
			...given([...choice.secrets, ...readTokens(choice)])
		},
		keep(`part-${expression('matrix.part')}`, 'parts')
	]
});

const verdict = (choice: PipelineChoice): object => ({
	'runs-on': 'ubuntu-latest',
	needs: 'part',
	if: expression('always()'),
	steps: [
		...ready(choice),
		...remember(choice),
		{ uses: 'actions/download-artifact@v4', with: { pattern: 'part-*', path: 'parts', 'merge-multiple': true } },
		{ run: 'mkdir -p out' },
		{ run: mergeCommand(choice), ...given(publishTokens(choice)) },
		...results(choice)
	]
});

/** A workflow of GitHub Actions. */
export const github: PipelineKind = {
	key: 'github',
	label: 'GitHub Actions, a workflow in YAML',
	file: '.github/workflows/api-tests.yml',
	secrets: 'the repository’s secrets for actions',
	write(choice) {
		const { shards, cron, title } = choice;
		return yamlOf({
			name: title,
			on: { push: null, ...(cron ? { schedule: [{ cron }] } : {}) },
			jobs: shards > 1 ? { part: part(choice), verdict: verdict(choice) } : { 'api-tests': whole(choice) }
		}).replace(/^ {2}push: null$/m, '  push:');
	}
};
