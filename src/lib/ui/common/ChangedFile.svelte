<script lang="ts">
	import type { FileDifference, VersionTexts } from '$lib/wire.ts';
	import type { Snippet } from 'svelte';
	import { messageOf, textPage } from './api.ts';
	import { lazy } from './lazy.svelte.ts';
	import { toasts } from './toast.svelte.ts';

	/** A file that differs from what it was: how, in words and as lines. */
	let {
		file,
		project,
		texts: fetchTexts,
		before,
		note,
		acts
	}: {
		file: FileDifference;
		/** The name of the project, whose page of the file it leads to. */
		project: string;
		/** The two texts. */
		texts: () => Promise<VersionTexts>;
		before?: Snippet;
		note?: Snippet;
		acts?: Snippet;
	} = $props();
	const words = { new: 'is new', changed: 'changed', gone: 'is gone', conflict: 'is in conflict' } as const;
	const MOST = 8;
	const link = $derived.by(() => {
		const [, name] = /^collections\/(.+)\.yaml$/.exec(file.path) ?? [];
		return name && file.change !== 'conflict' ? `/${project}/collections/${name}` : textPage(project, file.path);
	});
	let texts: VersionTexts | undefined = $state.raw();
	const changes = lazy(() => import('./LineChanges.svelte'));
	async function lines() {
		if (texts) return void (texts = undefined);
		try {
			texts = await fetchTexts();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<li class="border-t border-line py-1">
	<div class="flex items-baseline gap-3 max-[760px]:flex-wrap">
		{@render before?.()}
		<span class="w-72 shrink-0 truncate" title={file.path}
			>{#if file.change === 'gone'}<span class="data">{file.path}</span>{:else}<a
					class="data hover:underline"
					href={link}>{file.path}</a
				>{/if}
			<span class={file.change === 'conflict' ? 'text-fail' : 'text-quiet'}>{words[file.change]}</span></span
		>
		<ul class="min-w-0 flex-1">
			{#each file.differences.slice(0, MOST) as text, index (index)}<li class="truncate" title={text}>{text}</li>{/each}
			{#if file.differences.length > MOST}<li class="text-quiet">and {file.differences.length - MOST} more</li>{/if}
			{@render note?.()}
		</ul>
		{#if file.change !== 'conflict'}<button
				class="word shrink-0"
				aria-expanded={texts !== undefined}
				aria-label="{file.path} as lines"
				onclick={lines}>as lines</button
			>{/if}
		{@render acts?.()}
	</div>
	{#if texts}{@const LineChanges = changes.now}{#if LineChanges}<div class="py-1 pl-7">
				<LineChanges before={texts.before} after={texts.now} label="Lines of {file.path} that differ" />
			</div>{/if}{/if}
</li>
