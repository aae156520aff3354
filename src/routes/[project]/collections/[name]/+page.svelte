<script lang="ts">
	import { page as address } from '$app/state';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import { takeSend } from '#ui/projects/beginning.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { tellProject, useProject } from '#ui/shell/project.svelte.ts';
	import { Ledger } from '#ui/ledger/ledger.svelte.ts';
	import LedgerPage from '#ui/ledger/LedgerPage.svelte';
	import { untrack } from 'svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const ledger = $derived.by(() => {
		const document = new DocumentState(data.project, data.path, data.stored);
		return untrack(() => new Ledger(project(), document, data.name));
	});
	let page: LedgerPage | undefined = $state();

	$effect(() => {
		const current = ledger;
		tellProject(project, current.document);
		return () => {
			void current.document.save();
			current.sending.leave();
		};
	});
	// results belong to an environment
	$effect(() => {
		void project().environment;
		const current = ledger;
		untrack(() => void current.sending.loadResults().catch((error: Error) => toasts.show(error.message, 'trouble')));
	});
	// #scenario and #scenario/step lead to their rows, unless somebody has begun to work in the meantime
	let touched = false;
	$effect(() => {
		const fragment = address.url.hash.slice(1);
		const shown = page;
		touched = false;
		// nothing but another address leads there again
		const { place, current } = untrack(() => ({
			place: `${project().name}/${data.name}#${fragment}`,
			current: ledger
		}));
		if (fragment && shown)
			untrack(() =>
				setTimeout(() => {
					if (!touched) void shown.goTo(fragment);
					if (takeSend(place)) current.sendAt(fragment);
				}, 50)
			);
	});
	const touch = () => void (touched = true);
	function leaving(event: BeforeUnloadEvent) {
		if (!ledger.document.settled) event.preventDefault();
	}
</script>

<svelte:window
	onbeforeunload={leaving}
	onpointerdown={touch}
	onkeydown={touch}
	onwheel={touch}
	onfocus={() => void ledger.document.refresh().catch(() => {})}
/>
<svelte:head><title>{ledger.title} · Loyal Heron</title></svelte:head>
<LedgerPage bind:this={page} {ledger} />
