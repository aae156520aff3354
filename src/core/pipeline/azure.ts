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

type Steps = readonly object[];

/** Secret variables have to be handed to each script by name. */
const given = (names: readonly string[]): object =>
	names.length > 0 ? { env: Object.fromEntries(names.map((name) => [name, `$(${name})`])) } : {};

const ready = ({ install }: PipelineChoice): Steps => [
	{ checkout: 'self' },
	{ task: 'NodeTool@0', inputs: { versionSpec: '20.x' } },
	{ script: install }
];

/** What a gate remembers comes from the run before, and is kept for the next. */
const remember = ({ history }: PipelineChoice): Steps =>
	history
		? [
				{
					task: 'Cache@2',
					inputs: {
						key: '"heron" | "$(Build.SourceBranchName)" | "$(Build.BuildId)"',
						restoreKeys: '"heron" | "$(Build.SourceBranchName)"\n"heron" | "main"\n',
						path: HISTORY_FOLDER
					}
				}
			]
		: [];

const folders = ({ history }: PipelineChoice): object => ({
	script: history ? `mkdir -p out ${HISTORY_FOLDER}` : 'mkdir -p out'
});

const KEEP: Steps = [
	{
		task: 'PublishTestResults@2',
		condition: 'always()',
		inputs: { testResultsFormat: 'JUnit', testResultsFiles: 'out/junit.xml' }
	},
	{ publish: 'out', artifact: 'api-tests', condition: 'always()' }
];

const whole = (choice: PipelineChoice): Steps => [
	...ready(choice),
	...remember(choice),
	folders(choice),
	{ script: checkCommand({ ...choice, environment: '' }), ...given(readTokens(choice)) },
	{ script: runCommand(choice), ...given([...choice.secrets, ...publishTokens(choice)]) },
	...KEEP
];

const part = (choice: PipelineChoice): Steps => [
	...ready(choice),
	{ script: 'mkdir -p parts' },
	{
		script: partCommand(choice, '$(System.JobPositionInPhase)', '$(System.TotalJobsInPhase)'),
		...given([...choice.secrets, ...readTokens(choice)])
	},
	{ publish: 'parts', artifact: 'part-$(System.JobPositionInPhase)', condition: 'always()' }
];

const verdict = (choice: PipelineChoice): Steps => [
	...ready(choice),
	...remember(choice),
	{ task: 'DownloadPipelineArtifact@2', inputs: { patterns: 'part-*/*.json', path: 'downloaded' } },
	{ script: 'mkdir -p parts && cp downloaded/part-*/*.json parts/' },
	folders(choice),
	{ script: mergeCommand(choice), ...given(publishTokens(choice)) },
	...KEEP
];

/** A pipeline of Azure Pipelines. */
export const azure: PipelineKind = {
	key: 'azure',
	label: 'Azure Pipelines, a pipeline in YAML',
	file: 'azure-pipelines.yml',
	secrets: 'secret variables of the pipeline',
	write(choice) {
		const { shards, cron, title } = choice;
		const schedule = { cron, displayName: title, branches: { include: ['main'] }, always: true };
		const head = {
			trigger: ['*'],
			...(cron ? { schedules: [schedule] } : {}),
			pool: { vmImage: 'ubuntu-latest' }
		};
		if (shards === 1) return yamlOf({ ...head, steps: whole(choice) });
		return yamlOf({
			...head,
			jobs: [
				{ job: 'part', strategy: { parallel: shards }, steps: part(choice) },
				{ job: 'verdict', dependsOn: 'part', condition: 'always()', steps: verdict(choice) }
			]
		});
	}
};
