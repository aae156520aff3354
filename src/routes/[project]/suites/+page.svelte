<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import type { ChangeHistory } from '$lib/wire.ts';
	import { api, messageOf } from '#ui/common/api.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import { keepInSight } from '#ui/common/sight.ts';
	import { freeName } from '#ui/common/edit.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { tellProject, useProject } from '#ui/shell/project.svelte.ts';
	import { startRun, tellRefused } from '#ui/run/start.svelte.ts';
	import { choicesOf } from '#ui/suites/choices.ts';
	import QuarantineList from '#ui/suites/QuarantineList.svelte';
	import SuiteSection from '#ui/suites/SuiteSection.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const list = $derived(
		data.documents.map(({ name, path, stored }) => {
			const document = new DocumentState(data.project, path, stored);
			tellProject(project, document);
			return { name, document };
		})
	);
	const quarantine = $derived.by(() => {
		const { path, stored } = data.quarantine;
		const document = new DocumentState(data.project, path, stored);
		tellProject(project, document);
		return document;
	});
	const choices = $derived(choicesOf(project().collections));

	/** More suites than these are drawn when they come near. */
	const MANY = 20;

	// #name leads to a suite; those above it are drawn, and take their own heights, as they come near
	const named = $derived(page.url.hash.slice(1));
	$effect(() => {
		const name = named;
		if (name) void keepInSight(() => document.getElementById(name), { block: 'start' });
	});

	let marks: string[] = $state.raw([]);
	$effect(() => {
		api.get<Pick<ChangeHistory, 'marks'>>(`/projects/${data.project}/changes`).then(
			(found) => (marks = found.marks.map(({ name }) => name)),
			// without them a suite takes the newest
			() => {}
		);
	});

	async function run(name: string, document: DocumentState) {
		try {
			await document.save();
			const started = await startRun(data.project, { targets: [name] });
			if (started) await goto(`/${data.project}/runs/${started.id}`);
		} catch (error) {
			tellRefused(data.project, error);
		}
	}
	async function add() {
		const name = freeName('suite', [
			...list.map((one) => one.name),
			// by its name a collection would run in place of the suite
			...project().collections.map((one) => one.name)
		]);
		try {
			await api.put(`/projects/${data.project}/files/suites/${name}.yaml`, {
				value: { heron: 1, title: 'New suite', scenarios: [], environment: project().environment },
				revision: 0
			});
			await project().reload();
			await invalidateAll();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<svelte:head><title>Suites · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="page-head">
		<h1>Suites</h1>
		<span class="text-quiet">what runs together, where, and what lets the pipeline go on</span><button
			class="press go ml-auto"
			onclick={add}>New suite</button
		>
	</div>
	{#each list as { name, document } (name)}
		<SuiteSection
			{name}
			{document}
			{choices}
			{marks}
			choicesId="what-suites-run"
			many={list.length > MANY}
			before={() => Promise.all(list.map(({ document }) => document.save()))}
			onrun={() => run(name, document)}
		/>
	{:else}<p class="py-6 text-quiet">
			No suite yet. A suite names what runs together; the command runs it by its name.
		</p>{/each}
	<datalist id="what-suites-run"
		>{#each choices.texts as [key, text] (key)}<option value={text}></option>{/each}</datalist
	>
	<QuarantineList document={quarantine} />
</div>
