<script lang="ts">
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import DocumentHead from '#ui/common/DocumentHead.svelte';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { messageOf } from '#ui/common/api.ts';
	import { Reach } from '#ui/connection/reach.svelte.ts';
	import ReachCheck from '#ui/connection/ReachCheck.svelte';
	import Settings from '#ui/connection/Settings.svelte';
	import { provideProjectNames } from '#ui/editor/names.svelte.ts';
	import { hints } from '#ui/shell/hint.svelte.ts';
	import { tellProject, useProject } from '#ui/shell/project.svelte.ts';
	import { untrack } from 'svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	provideProjectNames(project);
	const document = $derived.by(() => {
		const made = new DocumentState(data.project, data.path, data.stored);
		tellProject(project, made);
		return made;
	});
	const reach = $derived(new Reach(data.project, data.name));
	$effect(() => {
		const current = reach;
		const { environment } = project();
		untrack(() => {
			current.stop();
			current.last(environment).catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
		});
		return () => current.stop();
	});
	$effect(() => {
		hints.text = 'Ctrl+Enter checks · ? keys';
		return () => (hints.text = '? keys');
	});
	const own = $derived(project().overview.connections.find((one) => one.name === data.name));
	const uses = $derived(
		(own?.uses ?? []).map((use) => ({
			text: `${use.steps} ${use.steps === 1 ? 'step' : 'steps'} of ${use.title}`,
			href: `/${project().name}/collections/${use.collection}`
		}))
	);
	async function check() {
		await document.save();
		await reach.check(project().environment);
	}
	function keys(event: KeyboardEvent) {
		if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return;
		event.preventDefault();
		void check();
	}
	async function afterFix() {
		await document.refresh();
		await project().reload();
	}
</script>

<svelte:window onkeydown={keys} />
<svelte:head><title>{data.name} · Connections · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<DocumentHead
		{document}
		name={data.name}
		list="/{project().name}/connections"
		back="Connections"
		{uses}
		moreUses={own?.moreUses}
	/>
	<div class="grid grid-cols-[minmax(0,452px)_minmax(0,1fr)] gap-8 pt-2.5 pb-8 max-[900px]:grid-cols-[minmax(0,1fr)]">
		{#key document}<Settings {document} name={data.name} />{/key}
		<ReachCheck {reach} beforeCheck={() => document.save()} {afterFix} />
	</div>
</div>
