<script lang="ts">
	import type { Problem } from '#core/errors.ts';
	import { loadDocument } from '#core/project/index.ts';
	import { api, ApiError, messageOf } from '#ui/common/api.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import CodeField from '#ui/editor/CodeField.svelte';
	import { useProject } from '#ui/frame/project.svelte.ts';
	import { untrack } from 'svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	let text = $state(untrack(() => data.text));
	let saved = $state(untrack(() => data.text));
	let revision = $state(untrack(() => data.revision));
	const changed = $derived(text !== saved);
	// what is wrong is said as it is typed; what files say of each other is known once it is saved
	const problems = $derived<Problem[]>(loadDocument(data.path, text)?.problems ?? []);
	const others = $derived(
		changed ? [] : data.problems.filter((one) => !problems.some((own) => own.message === one.message))
	);
	const back = $derived.by(() => {
		const [folder, file = ''] = data.path.split('/');
		if (folder === 'collections') return `/${data.project}/collections/${file.replace(/\.yaml$/, '')}`;
		return `/${data.project}/${folder === 'connections' || folder === 'suites' ? folder : 'values'}`;
	});

	async function save() {
		try {
			const stored = await api.put<{ revision: number }>(`/projects/${data.project}/files/${data.path}`, {
				text,
				revision
			});
			revision = stored.revision;
			saved = text;
			await project().reload();
			toasts.show(`${data.path} is saved.`);
		} catch (error) {
			const conflict = error instanceof ApiError && error.code === 'store.conflict';
			toasts.show(
				conflict ? `${data.path} was changed elsewhere: copy your text, then load this page again.` : messageOf(error),
				'trouble'
			);
		}
	}
	function keys(event: KeyboardEvent) {
		if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 's') return;
		event.preventDefault();
		void save();
	}
</script>

<svelte:window onkeydown={keys} onbeforeunload={(event) => changed && event.preventDefault()} />
<svelte:head><title>{data.path} · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1 class="data text-[17px]!">{data.path}</h1>
		<span class="text-quiet">the file as text</span>
		<span class="ml-auto flex items-center gap-3">
			{#if problems.length === 0 && !changed}<a class="word" href={back}>back to its page</a>{/if}
			<button class="press go" disabled={!changed} onclick={save}
				>Save <kbd class="keycap border-current">Ctrl+S</kbd></button
			>
		</span>
	</div>
	{#if problems.length + others.length > 0}
		<ul class="py-2" aria-label="Problems">
			{#each [...problems, ...others] as problem, index (index)}
				<li class="text-[13px] text-fail">{problem.line ? `line ${problem.line}: ` : ''}{problem.message}</li>
			{/each}
		</ul>
	{:else}<p class="py-2 text-[13px] text-quiet">Nothing is wrong in this file.</p>{/if}
	<div class="min-h-0 flex-1 overflow-auto pb-4">
		<CodeField value={text} lines numbers label="Text of {data.path}" onchange={(next) => (text = next)} />
	</div>
</div>
