<script lang="ts">
	import { useProject } from '#ui/shell/project.svelte.ts';
	import RunSheet from '#ui/run/RunSheet.svelte';
	import { RunSheetState } from '#ui/run/sheet.svelte.ts';
	import { untrack } from 'svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const sheet = $derived(new RunSheetState(data));
	$effect(() => {
		const current = sheet;
		untrack(() => current.follow(() => void project().loadLastRun()));
		return () => current.leave();
	});
</script>

<svelte:head><title>Run {data.run.number} · Loyal Heron</title></svelte:head>
{#key data.run.id}<RunSheet {sheet} />{/key}
