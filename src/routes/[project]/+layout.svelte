<script lang="ts">
	import { untrack, type Snippet } from 'svelte';
	import { isField } from '#ui/common/fields.ts';
	import Find from '#ui/shell/Find.svelte';
	import Header from '#ui/shell/Header.svelte';
	import { ProjectState, provideProject } from '#ui/shell/project.svelte.ts';
	import GuardDialog from '#ui/run/GuardDialog.svelte';
	import Toasts from '#ui/shell/Toasts.svelte';
	import { lazy } from '#ui/common/lazy.svelte.ts';
	import { keepProject } from '#ui/shell/chosen.ts';
	import { hints } from '#ui/shell/hint.svelte.ts';
	import { DEMO, guide } from '#ui/guide/guide.svelte.ts';
	import Waterline from '#ui/shell/Waterline.svelte';
	import type { Overview } from '#ui/shell/project.svelte.ts';

	let { data, children }: { data: { overview: Overview; chosen: string }; children: Snippet } = $props();
	const project = $derived(new ProjectState(data.overview, data.chosen));
	provideProject(() => project);
	let finding = $state(false);
	let helping = $state(false);

	$effect(() => {
		const current = project;
		untrack(() => {
			keepProject(current.name);
			void current.resolve();
			void current.loadLastRun().catch(() => {});
		});
	});

	// another overview: something has changed
	$effect(() => {
		if (project.overview.folder) project.lookForVersion();
	});

	// what is changed in the project's folder is here a moment later
	const dir = $derived(project.overview.folder?.dir);
	$effect(() => {
		const current = project;
		if (!dir) return;
		const { name } = untrack(() => current);
		let stop: (() => void) | undefined;
		let left = false;
		void import('#ui/shell/follow-folder.ts').then(
			({ followFolder }) => {
				if (!left) stop = followFolder(name, () => current.reload());
			},
			// a server that is away tells so by everything else
			() => {}
		);
		return () => {
			left = true;
			stop?.();
		};
	});

	$effect(() => guide.begin());
	const guidePart = lazy(() => import('#ui/guide/GuideBar.svelte'));
	const helpPart = lazy(() => import('#ui/shell/Help.svelte'));
	function keys(event: KeyboardEvent) {
		if (
			(event.key === '/' && !isField(event.target)) ||
			(event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey))
		)
			finding = true;
		else if (event.key === '?' && !isField(event.target)) helping = true;
		else return;
		event.preventDefault();
	}
</script>

<!-- a commit elsewhere changes no file -->
<svelte:window onkeydown={keys} onfocus={() => project.overview.folder && project.lookForVersion()} />
<!-- what only is read out stands in lists, and must not make the whole page scroll -->
<div class="relative flex h-screen flex-col overflow-clip">
	<Header onfind={() => (finding = true)} onhelp={() => (helping = true)} />
	<main class="min-h-0 flex-1">{@render children()}</main>
	{#if guide.open && project.name === DEMO}{@const GuideBar = guidePart.now}{#if GuideBar}<GuideBar />{/if}{/if}
	<Waterline hint={hints.text} rows={hints.rows} />
</div>
<Find bind:open={finding} />
{#if helping}{@const Help = helpPart.now}{#if Help}<Help bind:open={helping} />{/if}{/if}
<GuardDialog />
<Toasts />
