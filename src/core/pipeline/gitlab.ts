import { checkCommand, HISTORY_FOLDER, mergeCommand, partCommand, runCommand } from './commands.ts';
import type { PipelineKind } from './kind.ts';
import { yamlOf } from './yaml.ts';

/** Jobs of GitLab CI. Its variables are those of the shell by themselves. */
export const gitlab: PipelineKind = {
	key: 'gitlab',
	label: 'GitLab CI, jobs in YAML',
	file: '.gitlab-ci.yml',
	secrets: 'the project’s CI/CD variables, masked',
	write(choice) {
		const { shards, history } = choice;
		const ready = { image: 'node:20', before_script: [choice.install] };
		const cache = history
			? { cache: { key: 'heron-$CI_COMMIT_REF_SLUG', fallback_keys: ['heron-main'], paths: [HISTORY_FOLDER] } }
			: {};
		const made = history ? [`mkdir -p ${HISTORY_FOLDER} out`] : ['mkdir -p out'];
		const artifacts = { artifacts: { when: 'always', paths: ['out'], reports: { junit: 'out/junit.xml' } } };
		if (shards === 1)
			return yamlOf({
				'api-tests': {
					...ready,
					...cache,
					script: [...made, checkCommand({ ...choice, environment: '' }), runCommand(choice)],
					...artifacts
				}
			});
		return yamlOf({
			stages: ['parts', 'verdict'],
			part: {
				stage: 'parts',
				...ready,
				parallel: shards,
				script: ['mkdir -p parts', partCommand(choice, '$CI_NODE_INDEX', '$CI_NODE_TOTAL')],
				artifacts: { when: 'always', paths: ['parts'] }
			},
			verdict: {
				stage: 'verdict',
				...ready,
				...cache,
				when: 'always',
				script: [...made, mergeCommand(choice)],
				...artifacts
			}
		});
	}
};
