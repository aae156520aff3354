import { checkCommand, HISTORY_FOLDER, mergeCommand, partCommand, runCommand } from './commands.ts';
import type { PipelineKind } from './kind.ts';
import { yamlOf } from './yaml.ts';

/** A pipeline of Bitbucket Pipelines. Its variables are those of the shell by themselves; reports are found under test-results. */
export const bitbucket: PipelineKind = {
	key: 'bitbucket',
	label: 'Bitbucket Pipelines, steps in YAML',
	file: 'bitbucket-pipelines.yml',
	secrets: 'secured variables of the repository',
	write(choice) {
		const { shards, history, title } = choice;
		const caches = history ? { caches: ['heron'] } : {};
		const definitions = history ? { definitions: { caches: { heron: HISTORY_FOLDER } } } : {};
		const made = history ? `mkdir -p out ${HISTORY_FOLDER}` : 'mkdir -p out';
		const keep = {
			'after-script': ['mkdir -p test-results && cp out/junit.xml test-results/'],
			artifacts: { upload: [{ name: 'api-tests', type: 'shared', paths: ['out/**'], 'capture-on': 'always' }] }
		};
		const whole = [
			{
				step: {
					name: title,
					...caches,
					script: [choice.install, made, checkCommand({ ...choice, environment: '' }), runCommand(choice)],
					...keep
				}
			}
		];
		const parts = [
			{
				parallel: Array.from({ length: shards }, (_, n) => ({
					step: {
						name: `Part ${n + 1} of ${shards}`,
						script: [choice.install, 'mkdir -p parts', partCommand(choice, String(n + 1), String(shards))],
						artifacts: ['parts/**']
					}
				}))
			},
			{ step: { name: 'Verdict', ...caches, script: [choice.install, made, mergeCommand(choice)], ...keep } }
		];
		return yamlOf({ image: 'node:20', ...definitions, pipelines: { default: shards > 1 ? parts : whole } });
	}
};
