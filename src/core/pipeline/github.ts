import { checkCommand, HISTORY, mergeCommand, needsToken, partCommand, runCommand } from './commands.ts';
import type { PipelineKind } from './kind.ts';
import { yamlOf } from './yaml.ts';

const expression = (text: string): string => `\${{ ${text} }}`;

/** A workflow of GitHub Actions. */
export const github: PipelineKind = {
	key: 'github',
	label: 'GitHub Actions, a workflow in YAML',
	file: '.github/workflows/api-tests.yml',
	secrets: 'the repository’s secrets for actions',
	write(choice) {
		const { secrets, shards, history, cron, title } = choice;
		// an agent is given what it needs: those that run parts publish nothing
		const given = (names: readonly string[]) =>
			names.length > 0 ? { env: Object.fromEntries(names.map((name) => [name, expression(`secrets.${name}`)])) } : {};
		const token = needsToken(choice) ? ['HERON_TOKEN'] : [];
		const read = choice.server ? ['HERON_TOKEN'] : [];
		const ready = [
			{ uses: 'actions/checkout@v4' },
			{ uses: 'actions/setup-node@v4', with: { 'node-version': 20 } },
			{ run: choice.install }
		];
		const remember = history
			? [
					{
						uses: 'actions/cache@v4',
						with: {
							path: HISTORY.split('/')[0],
							key: `heron-${expression('github.ref_name')}-${expression('github.run_id')}`,
							'restore-keys': `heron-${expression('github.ref_name')}-\nheron-main-\n`
						}
					},
					{ run: `mkdir -p ${HISTORY.split('/')[0]}` }
				]
			: [];
		const keep = (name: string, path: string) => ({
			if: expression('always()'),
			uses: 'actions/upload-artifact@v4',
			with: { name, path }
		});
		const summary = choice.reports.includes('markdown')
			? [{ if: expression('always()'), run: 'cat out/summary.md >> "$GITHUB_STEP_SUMMARY"' }]
			: [];
		const whole = {
			'api-tests': {
				'runs-on': 'ubuntu-latest',
				steps: [
					...ready,
					...remember,
					{ run: 'mkdir -p out' },
					{ run: checkCommand({ ...choice, environment: '' }), ...given(read) },
					{ run: runCommand(choice), ...given([...secrets, ...token]) },
					...summary,
					keep('api-tests', 'out')
				]
			}
		};
		const parts = {
			part: {
				'runs-on': 'ubuntu-latest',
				strategy: { 'fail-fast': false, matrix: { part: Array.from({ length: shards }, (_, n) => n + 1) } },
				steps: [
					...ready,
					{ run: 'mkdir -p parts' },
					{ run: partCommand(choice, expression('matrix.part'), String(shards)), ...given([...secrets, ...read]) },
					keep(`part-${expression('matrix.part')}`, 'parts')
				]
			},
			verdict: {
				'runs-on': 'ubuntu-latest',
				needs: 'part',
				if: expression('always()'),
				steps: [
					...ready,
					...remember,
					{ uses: 'actions/download-artifact@v4', with: { pattern: 'part-*', path: 'parts', 'merge-multiple': true } },
					{ run: 'mkdir -p out' },
					{ run: mergeCommand(choice), ...given(token) },
					...summary,
					keep('api-tests', 'out')
				]
			}
		};
		return yamlOf({
			name: title,
			on: { push: null, ...(cron ? { schedule: [{ cron }] } : {}) },
			jobs: shards > 1 ? parts : whole
		}).replace(/^ {2}push: null$/m, '  push:');
	}
};
