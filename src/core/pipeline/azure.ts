import { checkCommand, HISTORY, mergeCommand, needsToken, partCommand, runCommand } from './commands.ts';
import type { PipelineKind } from './kind.ts';
import { yamlOf } from './yaml.ts';

/** A pipeline of Azure Pipelines. Secret variables have to be handed to each script by name. */
export const azure: PipelineKind = {
	key: 'azure',
	label: 'Azure Pipelines, a pipeline in YAML',
	file: 'azure-pipelines.yml',
	secrets: 'secret variables of the pipeline',
	write(choice) {
		const { secrets, shards, history, cron } = choice;
		// an agent is given what it needs: those that run parts publish nothing
		const given = (names: readonly string[]) =>
			names.length > 0 ? { env: Object.fromEntries(names.map((name) => [name, `$(${name})`])) } : {};
		const token = needsToken(choice) ? ['HERON_TOKEN'] : [];
		const read = choice.server ? ['HERON_TOKEN'] : [];
		const ready = [
			{ checkout: 'self' },
			{ task: 'NodeTool@0', inputs: { versionSpec: '20.x' } },
			{ script: choice.install }
		];
		const remember = history
			? [
					{
						task: 'Cache@2',
						inputs: {
							key: '"heron" | "$(Build.SourceBranchName)" | "$(Build.BuildId)"',
							restoreKeys: '"heron" | "$(Build.SourceBranchName)"\n"heron" | "main"\n',
							path: HISTORY.split('/')[0]
						}
					}
				]
			: [];
		const made = { script: history ? `mkdir -p out ${HISTORY.split('/')[0]}` : 'mkdir -p out' };
		const keep = [
			{
				task: 'PublishTestResults@2',
				condition: 'always()',
				inputs: { testResultsFormat: 'JUnit', testResultsFiles: 'out/junit.xml' }
			},
			{ publish: 'out', artifact: 'api-tests', condition: 'always()' }
		];
		const head = {
			trigger: ['*'],
			...(cron
				? { schedules: [{ cron, displayName: choice.title, branches: { include: ['main'] }, always: true }] }
				: {}),
			pool: { vmImage: 'ubuntu-latest' }
		};
		if (shards === 1)
			return yamlOf({
				...head,
				steps: [
					...ready,
					...remember,
					made,
					{ script: checkCommand({ ...choice, environment: '' }), ...given(read) },
					{ script: runCommand(choice), ...given([...secrets, ...token]) },
					...keep
				]
			});
		return yamlOf({
			...head,
			jobs: [
				{
					job: 'part',
					strategy: { parallel: shards },
					steps: [
						...ready,
						{ script: 'mkdir -p parts' },
						{
							script: partCommand(choice, '$(System.JobPositionInPhase)', '$(System.TotalJobsInPhase)'),
							...given([...secrets, ...read])
						},
						{ publish: 'parts', artifact: 'part-$(System.JobPositionInPhase)', condition: 'always()' }
					]
				},
				{
					job: 'verdict',
					dependsOn: 'part',
					condition: 'always()',
					steps: [
						...ready,
						...remember,
						{ task: 'DownloadPipelineArtifact@2', inputs: { patterns: 'part-*/*.json', path: 'downloaded' } },
						{ script: 'mkdir -p parts && cp downloaded/part-*/*.json parts/' },
						made,
						{ script: mergeCommand(choice), ...given(token) },
						...keep
					]
				}
			]
		});
	}
};
