<script lang="ts">
	import { placeText } from '#core/gate/index.ts';
	import type { PipelineChoice } from '#core/pipeline/index.ts';
	import { showDuration, showSize } from '#core/model/units.ts';
	import type { Practice } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import Outcome from '../common/Outcome.svelte';
	import { storeAll } from '../common/saving.svelte.ts';
	import { saveText } from '../common/upload.ts';

	/** What a first build would say. */
	let { project, choice }: { project: string; choice: PipelineChoice } = $props();
	let going: AbortController | undefined = $state.raw();
	let practice: Practice | undefined = $state.raw();
	let trouble = $state('');
	let began = $state(0);

	async function run() {
		const stop = new AbortController();
		going = stop;
		practice = undefined;
		trouble = '';
		began = Date.now();
		const { suite, environment, folder, reports, history } = choice;
		try {
			await storeAll(project);
			practice = await api.post<Practice>(
				`/projects/${project}/practice`,
				{ suite, environment, folder, reports, history },
				stop.signal
			);
		} catch (error) {
			trouble = stop.signal.aborted ? `It was stopped after ${showDuration(Date.now() - began)}.` : messageOf(error);
		} finally {
			going = undefined;
		}
	}
	const words: Record<number, string> = {
		0: 'the pipeline goes on',
		1: 'the gate stops it',
		2: 'something is wrong before anything is sent',
		3: 'something could not be carried out',
		4: 'a result could not be delivered'
	};
	const save = (name: string, base64: string) =>
		saveText(
			name,
			Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0)),
			'application/octet-stream'
		);
</script>

<section class="mt-5 border-t-2 border-ink pt-2" aria-label="Practice run">
	<div class="flex flex-wrap items-baseline gap-3">
		<h2 class="label">Practice run</h2>
		<span class="text-[13px] text-quiet"
			>what a first build would say: a clean checkout, no terminal, the build server’s variables only; nothing is
			published</span
		>
		<span class="ml-auto">
			{#if going}<span class="mr-3 text-quiet" role="status">under way…</span><button
					class="press"
					onclick={() => going?.abort()}>Stop</button
				>
			{:else}<button class="press go" onclick={run}>{practice ? 'Practise again' : 'Practise'}</button>{/if}
		</span>
	</div>
	{#if trouble}<p class="mt-2 text-fail" role="alert">{trouble}</p>{/if}
	{#if practice}
		{@const { code, ms, findings, output, artifacts, gate } = practice}
		<ul class="mt-1">
			<li class="grid grid-cols-[20px_1fr] items-baseline gap-2 border-b border-line py-1">
				<span class="self-center"><Outcome outcome={code === 0 ? 'passed' : 'failed'} word={false} /></span>
				<span
					><b>exit code {code ?? 'none, it was ended'}</b>{code === null
						? ''
						: `: ${words[code] ?? 'the script could not be carried out'}`}, after
					{showDuration(ms)}</span
				>
			</li>
			{#each gate?.sentences ?? [] as { key, text, holds, because, places } (key)}<li
					class="grid grid-cols-[20px_1fr] items-baseline gap-2 border-b border-line py-1"
				>
					<span class="self-center"><Outcome outcome={holds ? 'passed' : 'failed'} word={false} /></span>
					<span
						>{text}: {because}{#if !holds && places.length > 0}<span class="data block text-quiet"
								>{places.slice(0, 5).map(placeText).join('; ')}</span
							>{/if}</span
					>
				</li>{/each}
			{#each findings as { kind, text, fix }, index (index)}<li
					class="grid grid-cols-[20px_1fr] items-baseline gap-2 border-b border-line py-1"
				>
					<span class="self-center"><Outcome outcome={kind === 'history' ? 'skipped' : 'error'} word={false} /></span>
					<span>{text} <span class="text-quiet">· {fix}</span></span>
				</li>{/each}
		</ul>
		<p class="flex flex-wrap items-baseline gap-3 py-1.5 text-[13px]">
			<span class="text-quiet">kept:</span>
			{#each artifacts as { name, size, base64 } (name)}{#if base64}<button
						class="word"
						onclick={() => save(name, base64)}>{name}, {showSize(size)}</button
					>{:else}<span>{name}, {showSize(size)}</span>{/if}{:else}<span>nothing</span>{/each}
		</p>
		<details open={code !== 0}>
			<summary class="cursor-pointer text-[13px] text-quiet">what it wrote</summary>
			<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
			<pre
				class="data mt-1 max-h-80 overflow-auto border border-l-[3px] border-rule bg-sheet px-3 py-1.5 whitespace-pre-wrap"
				tabindex="0"
				aria-label="What it wrote">{output || 'nothing'}</pre>
		</details>
	{/if}
</section>
