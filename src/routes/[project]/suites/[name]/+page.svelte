<script lang="ts">
	import { copyText } from '#ui/common/copy.ts';
	import { parseSuite } from '#core/documents/suite.ts';
	import { pipelineKinds, REPORT_FILES, type PipelineChoice, type ReportName } from '#core/pipeline/index.ts';
	import { secretVariable } from '#core/run/index.ts';
	import Practice from '#ui/suites/Practice.svelte';
	import Callouts from '#ui/suites/Callouts.svelte';
	import Unattended from '#ui/suites/Unattended.svelte';
	import Tokens from '#ui/suites/Tokens.svelte';
	import type { ChangeHistory } from '$lib/wire.ts';
	import { api } from '#ui/common/api.ts';
	import { saveText } from '#ui/common/upload.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const suite = $derived(parseSuite(data.name, data.stored.value));
	const { environments } = $derived(project().overview);

	let kindKey = $state(pipelineKinds[0]!.key);
	let chosenEnvironment: string | undefined = $state();
	let from = $state<'folder' | 'server'>('folder');
	let revision = $state('');
	let marks: string[] = $state.raw([]);
	$effect(() => {
		api.get<Pick<ChangeHistory, 'marks'>>(`/projects/${project().name}/changes`).then(
			(found) => (marks = found.marks.map(({ name }) => name)),
			() => {}
		);
	});
	let folder = $state('.');
	let install = $state('npm install --global ./tools/loyal-heron.tgz');
	let shards = $state(1);
	let reports: ReportName[] = $state(['html']);
	let publishing = $state(false);
	let server = $state(location.origin);
	let remembering: boolean | undefined = $state();
	let cron = $state('');

	const kind = $derived(pipelineKinds.find(({ key }) => key === kindKey)!);
	const environment = $derived(chosenEnvironment ?? suite.environment);
	const secrets = $derived((environments.find(({ name }) => name === environment)?.secrets ?? []).map(secretVariable));
	/** Whether the gate asks for earlier runs. */
	const remembers = $derived(suite.gate.newFailures !== undefined || suite.gate.slower !== undefined);
	const history = $derived(!publishing && (remembering ?? remembers));
	const choice = $derived<PipelineChoice>({
		suite: data.name,
		title: suite.title,
		environment,
		folder: folder.trim() || '.',
		server: from === 'server' ? server.trim() : '',
		revision,
		install: install.trim(),
		shards,
		reports,
		publish: publishing ? server.trim() : '',
		as: project().name,
		history,
		secrets,
		cron: cron.trim()
	});
	const asksServer = $derived(publishing || from === 'server');
	const script = $derived(kind.write(choice));
	const fileName = $derived(kind.file.split('/').at(-1)!);
	const CRON = /^(\S+\s+){4}\S+$/;
	const problems = $derived(
		[
			cron.trim() && !CRON.test(cron.trim()) && 'a time by the clock has five fields, such as 0 4 * * *',
			asksServer &&
				!URL.canParse(server.trim()) &&
				'the server wants an address, such as https://heron.reedmere.example',
			asksServer &&
				URL.canParse(server.trim()) &&
				/^(localhost|127\.|\[::1\])/.test(new URL(server.trim()).host) &&
				'this address leads nowhere from a build server: it is of this machine',
			remembers &&
				!publishing &&
				!history &&
				'the gate asks for earlier runs: without them all that fails counts as new',
			/\.\.|^\//.test(folder.trim()) && 'the folder is one within the repository'
		].filter((one) => typeof one === 'string')
	);
	const copy = () => copyText(script, 'The script is copied.');
	const REPORTS = Object.keys(REPORT_FILES) as ReportName[];
</script>

<svelte:head><title>{suite.title} in a pipeline · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col overflow-auto px-5 pt-3.5">
	<div class="page-head">
		<h1>{suite.title}</h1>
		<span class="text-quiet">in a pipeline</span>
		<a class="word" href="/{project().name}/suites#{data.name}">the suite and its gate</a>
		<span class="ml-auto flex gap-3">
			<button class="press" onclick={copy}>Copy</button>
			<button class="press" onclick={() => saveText(fileName, script, 'text/plain')}>Download {fileName}</button>
		</span>
	</div>
	<div class="grid gap-x-8 pt-3 min-[900px]:grid-cols-[330px_minmax(0,1fr)]">
		<form class="flex flex-col gap-2.5" onsubmit={(event) => event.preventDefault()}>
			<label class="flex flex-col gap-0.5"
				><span class="text-quiet">as</span><select class="field" bind:value={kindKey}
					>{#each pipelineKinds as { key, label } (key)}<option value={key}>{label}</option>{/each}</select
				></label
			>
			<label class="flex flex-col gap-0.5"
				><span class="text-quiet">in the environment</span><select
					class="field"
					value={environment}
					onchange={(event) => (chosenEnvironment = event.currentTarget.value)}
					><option value="">the project’s own</option>{#each environments as { name } (name)}<option value={name}
							>{name}</option
						>{/each}</select
				></label
			>
			<label class="flex flex-col gap-0.5"
				><span class="text-quiet">the project is</span><select class="field" bind:value={from}
					><option value="folder">in a folder of the repository</option><option value="server"
						>taken from this server</option
					></select
				></label
			>
			{#if from === 'server'}<label class="flex flex-col gap-0.5 pl-6"
					><span class="text-quiet">the server</span><input class="field data" bind:value={server} /></label
				>{/if}
			{#if from === 'folder'}<label class="flex flex-col gap-0.5 pl-6"
					><span class="text-quiet">the folder</span><input class="field data" bind:value={folder} /></label
				>{:else}<label class="flex flex-col gap-0.5 pl-6"
					><span class="text-quiet">as it is</span><select class="field" bind:value={revision}
						><option value=""
							>{suite.revision ? `at ${suite.revision}, as the suite says` : 'when the pipeline runs'}</option
						>{#each marks as mark (mark)}<option value={mark}>at {mark}</option>{/each}</select
					></label
				>{/if}
			<label class="flex flex-col gap-0.5"
				><span class="text-quiet">so the command comes to the agent</span><input
					class="field data"
					bind:value={install}
				/><span class="text-xs text-quiet">the tarball is made by <span class="data">npm pack</span></span></label
			>
			<label class="flex items-baseline gap-2"
				><span class="text-quiet">on</span><input
					class="field data w-16"
					type="number"
					min="1"
					max="50"
					value={shards}
					aria-label="Agents"
					onchange={(event) => (shards = Math.min(50, Math.max(1, Math.round(Number(event.currentTarget.value)) || 1)))}
				/><span>{shards === 1 ? 'agent' : 'agents, and one verdict for all of them'}</span></label
			>
			<fieldset>
				<legend class="text-quiet">reports beside JUnit, kept also when it fails</legend>
				<span class="flex flex-wrap gap-x-3"
					>{#each REPORTS as name (name)}<label
							><input type="checkbox" class="checkbox h-3.5 w-3.5" value={name} bind:group={reports} />
							{name}</label
						>{/each}</span
				>
			</fieldset>
			<label class="flex items-center gap-2"
				><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={publishing} /> results come to a server, while
				it runs</label
			>
			{#if publishing && from !== 'server'}<label class="flex flex-col gap-0.5 pl-6"
					><span class="text-quiet">the server</span><input class="field data" bind:value={server} /></label
				>{/if}
			{#if !publishing}<label class="flex items-center gap-2"
					><input
						type="checkbox"
						class="checkbox h-3.5 w-3.5"
						checked={history}
						onchange={(event) => (remembering = event.currentTarget.checked)}
					/> the pipeline keeps what the gate remembers</label
				>{/if}
			<label class="flex flex-col gap-0.5"
				><span class="text-quiet">on every push, and by the clock</span><input
					class="field data w-40"
					placeholder="0 4 * * *"
					bind:value={cron}
				/></label
			>
			{#if cron.trim() && (kindKey === 'gitlab' || kindKey === 'bitbucket' || kindKey === 'shell')}<p
					class="text-[13px] text-quiet"
				>
					There the clock is set on the build system’s own page, not in this file.
				</p>{/if}
			{#each problems as problem, index (index)}<p class="text-[13px] text-fail" role="status">{problem}</p>{/each}
		</form>
		<section class="flex min-w-0 flex-col" aria-label="The script">
			<p class="pb-1"><span class="data font-semibold">{kind.file}</span></p>
			{#if secrets.length > 0 || asksServer}<p class="pb-1.5 text-[13px]">
					Secrets are {kind.secrets}:
					<span class="data">{[...secrets, ...(asksServer ? ['HERON_TOKEN'] : [])].join(', ')}</span
					>{#if from === 'server'}; the token has to read{publishing ? ', and to publish' : ''}{/if}
				</p>{/if}
			<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
			<pre
				class="data max-h-[520px] min-h-72 overflow-auto border border-l-[3px] border-rule bg-sheet px-4 py-2"
				tabindex="0"
				aria-label="The script">{script}</pre>
		</section>
	</div>
	<Practice project={project().name} {choice} />
	<Unattended project={project().name} suite={data.name} revision={suite.revision} />
	<Callouts project={project().name} suite={data.name} />
	<Tokens project={project().name} />
</div>
