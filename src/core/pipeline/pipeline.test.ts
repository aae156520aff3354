import { NoOperationTraceWriter, parseWorkflow } from '@actions/workflow-parser';
import { parse } from 'yaml';
import { describe, expect, test } from 'vitest';
import { pipelineKinds, type PipelineChoice } from './index.ts';

const choice = (more: Partial<PipelineChoice> = {}): PipelineChoice => ({
	...{
		suite: 'nightly',
		title: 'Nightly',
		environment: 'staging',
		folder: '.',
		install: 'npm install --global ./heron.tgz'
	},
	...{
		shards: 1,
		reports: [],
		publish: '',
		server: '',
		revision: '',
		as: 'reedmere',
		history: false,
		secrets: [],
		cron: ''
	},
	...more
});
const kind = (key: string) => pipelineKinds.find((one) => one.key === key)!;
const yaml = pipelineKinds.filter(({ file }) => /\.ya?ml$/.test(file));
/** Every text in a document. */
const texts = (value: unknown): string[] =>
	typeof value === 'string'
		? [value]
		: typeof value === 'object' && value !== null
			? Object.values(value).flatMap(texts)
			: [];

describe.each(yaml.map((one) => [one.key, one] as const))('%s', (_, one) => {
	test('is YAML, whatever stands in names', () => {
		const title = 'Nacht: „früh“ # 1 - \'x\' "y" {$}';
		const folder = "tests/a b's";
		for (const shards of [1, 3]) {
			const script = one.write(choice({ title, folder, shards, cron: '0 4 * * *', history: true, reports: ['html'] }));
			const found = texts(parse(script));
			expect(found.some((text) => text.includes(`--project 'tests/a b'\\''s'`))).toBe(true);
		}
	});
	test('keeps what was reported also when it fails', () => {
		expect(one.write(choice())).toMatch(/always/);
	});
	test('holds the names of secrets, and no values', () => {
		const script = one.write(choice({ secrets: ['HERON_SECRET_CLERK_PASSWORD'], publish: 'https://heron.example' }));
		// where all variables are in the environment by themselves nothing has to name them
		if (one.key === 'github')
			expect(script).toContain('HERON_SECRET_CLERK_PASSWORD: ${{ secrets.HERON_SECRET_CLERK_PASSWORD }}');
		if (one.key === 'azure') expect(script).toContain('HERON_SECRET_CLERK_PASSWORD: $(HERON_SECRET_CLERK_PASSWORD)');
	});
	test('takes the project from a server, at a revision, in every command', () => {
		for (const shards of [1, 2]) {
			const script = one.write(choice({ shards, server: 'https://heron.example', revision: 'release-7' }));
			const commands = texts(parse(script))
				.flatMap((text) => text.split(/(?=heron (?:run|check|merge) )/))
				.filter((text) => /^heron (run|check|merge)/.test(text));
			expect(commands.length).toBeGreaterThan(1);
			for (const command of commands)
				expect(command.replace(/\\\n\s*/g, '')).toContain(
					'--server https://heron.example --name reedmere --revision release-7'
				);
			if (one.key === 'github') expect(script.match(/HERON_TOKEN:/g)).toHaveLength(commands.length);
		}
	});
	test('in parts ends with one verdict', () => {
		const script = one.write(choice({ shards: 3, publish: 'https://heron.example' }));
		expect(script).toContain('heron merge parts/*.json');
		expect(script.match(/--publish/g)).toHaveLength(1);
	});
});

test.each([
	['on one agent', {}],
	['on three, remembering', { shards: 3, history: true, reports: ['html', 'markdown'] as const }],
	[
		'by the clock, from a server, publishing',
		{ cron: '0 4 * * 1-5', server: 'https://heron.example', publish: 'https://heron.example' }
	],
	['with odd names', { title: 'Nacht: „früh“ # 1', folder: "tests/a b's", secrets: ['HERON_SECRET_KEY'] }]
])('a workflow %s is one by the schema of its build system', async (_, more) => {
	const errors = async (content: string) => {
		const { context } = parseWorkflow({ name: 'w.yml', content }, new NoOperationTraceWriter());
		return context.errors.getErrors().map(({ message }) => message);
	};
	const script = kind('github').write(choice(more));
	expect(await errors(script)).toEqual([]);
	expect(await errors(script.replace('runs-on', 'run-on'))).not.toEqual([]);
});

test('agents that run parts are given the secrets, and the one that publishes the token', () => {
	const script = kind('github').write(
		choice({ shards: 2, secrets: ['HERON_SECRET_KEY'], publish: 'https://heron.example' })
	);
	type Job = { steps: { env?: object }[] };
	const { jobs } = parse(script) as { jobs: Record<string, Job> };
	const given = (job: Job) => job.steps.flatMap(({ env }) => Object.keys(env ?? {}));
	expect([given(jobs.part!), given(jobs.verdict!)]).toEqual([['HERON_SECRET_KEY'], ['HERON_TOKEN']]);
});
test('a part that did not pass does not end its agent, one that could not be run does', () => {
	expect(kind('shell').write(choice({ shards: 2 }))).toContain('|| test $? -eq 1 -o $? -eq 3');
});
test('Groovy: backslashes and quotes in strings are escaped', () => {
	const script = kind('declarative').write(choice({ install: "echo 'a\\b'", reports: ['html'] }));
	expect(script).toContain("sh '''echo \\'a\\\\b\\''''");
	expect(script).toContain('heron run nightly \\\\\n');
	// as many braces are opened as closed
	expect(script.match(/\{/g)!.length).toBe(script.match(/\}/g)!.length);
});
