<script lang="ts">
	import { untrack, type Snippet } from 'svelte';
	import Find from '#ui/frame/Find.svelte';
	import Header from '#ui/frame/Header.svelte';
	import Help from '#ui/frame/Help.svelte';
	import { ProjectState, provideProject } from '#ui/frame/project.svelte.ts';
	import GuardDialog from '#ui/run/GuardDialog.svelte';
	import Toasts from '#ui/frame/Toasts.svelte';
	import { hints } from '#ui/frame/hint.svelte.ts';
	import Waterline from '#ui/frame/Waterline.svelte';
	import type { Overview } from '#ui/frame/project.svelte.ts';

	let { data, children }: { data: { overview: Overview }; children: Snippet } = $props();
	const project = $derived(new ProjectState(data.overview));
	provideProject(() => project);
	let finding = $state(false);
	let helping = $state(false);

	$effect(() => {
		const current = project;
		untrack(() => {
			void current.resolve();
			void current.loadLastRun().catch(() => {});
		});
	});

	const typing = (target: EventTarget | null) =>
		target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
	function keys(event: KeyboardEvent) {
		if (
			(event.key === '/' && !typing(event.target)) ||
			(event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey))
		)
			finding = true;
		else if (event.key === '?' && !typing(event.target)) helping = true;
		else return;
		event.preventDefault();
	}
</script>

<svelte:window onkeydown={keys} />
<div class="flex h-screen flex-col">
	<Header onfind={() => (finding = true)} onhelp={() => (helping = true)} />
	<main class="min-h-0 flex-1">{@render children()}</main>
	<Waterline hint={hints.text} rows={hints.rows} />
</div>
<Find bind:open={finding} />
<Help bind:open={helping} />
<GuardDialog />
<Toasts />
