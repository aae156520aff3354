<script lang="ts">
	import { page } from '$app/state';
	import NoText from '#ui/text/NoText.svelte';
	import { TextState } from '#ui/text/text.svelte.ts';
	import TextPage from '#ui/text/TextPage.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const file = $derived(data.text === undefined ? undefined : new TextState(data.project, data.path, data.text, data));
	const at = $derived.by(() => {
		const line = Number(page.url.searchParams.get('line'));
		const path = page.url.searchParams.get('at');
		return {
			...(line > 0 ? { line } : {}),
			...(path ? { path: path.split('/').map((part) => (/^\d+$/.test(part) ? Number(part) : part)) } : {})
		};
	});
</script>

{#if file}{#key file}<TextPage state={file} {at} />{/key}
{:else}<NoText project={data.project} path={data.path} size={data.size} />{/if}
