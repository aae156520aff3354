<script lang="ts">
	import UseList from './UseList.svelte';
	import type { NameUse } from '#core/refactor/index.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';

	let { root, name, onrenamed }: { root: 'env' | 'secret'; name: string; onrenamed: (name: string) => void } = $props();
	const project = useProject();
	let uses: NameUse[] | undefined = $state.raw();
	let fresh = $state('');
	let asked = $state(false);
	$effect(() => {
		const query = `root=${root}&name=${encodeURIComponent(name)}`;
		void project().overview;
		void api
			.get<NameUse[]>(`/projects/${project().name}/names?${query}`)
			.then((found) => (uses = found))
			.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
	});
	const files = $derived([...new Set((uses ?? []).map((one) => one.file))]);
	async function rename(event: SubmitEvent) {
		event.preventDefault();
		if (!asked) return void (asked = true);
		try {
			const { changed } = await api.post<{ changed: { file: string; text: string; revision: number }[] }>(
				`/projects/${project().name}/names`,
				{ root, from: name, to: fresh.trim() }
			);
			await project().reload();
			const to = fresh.trim();
			toasts.show(
				`${name} is called ${to} now, in ${changed.length} ${changed.length === 1 ? 'file' : 'files'}.`,
				'note',
				{
					label: 'undo',
					run: () =>
						void api
							.post(`/projects/${project().name}/names`, { root, from: to, to: name })
							.then(() => project().reload())
							.then(() => onrenamed(name))
							.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
				}
			);
			asked = false;
			fresh = '';
			onrenamed(to);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<div class="text-[13px]">
	<UseList {uses} />
	<form class="flex flex-wrap items-center gap-2 pt-1.5" onsubmit={rename}>
		<input
			class="field data w-44"
			aria-label="Another name for {name}"
			placeholder="another name"
			bind:value={fresh}
			oninput={() => (asked = false)}
		/>
		{#if asked}<span
				>This changes {files.length}
				{files.length === 1 ? 'file' : 'files'}: <span class="data">{files.join(', ')}</span></span
			>{/if}
		<button class="press" disabled={!fresh.trim() || fresh.trim() === name}
			>{asked ? 'Rename it everywhere' : 'Rename…'}</button
		>
	</form>
</div>
