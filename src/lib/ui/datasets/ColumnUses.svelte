<script lang="ts">
	import type { NameUse } from '#core/refactor/index.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import UseList from '../values/UseList.svelte';

	let { file, name, title }: { file: string; name: string; title: string } = $props();
	const project = useProject();
	let uses: NameUse[] | undefined = $state.raw();
	$effect(() => {
		const query = new URLSearchParams({ dataset: file, name, title });
		void project().overview;
		void api
			.get<NameUse[]>(`/projects/${project().name}/names?${query.toString()}`)
			.then((found) => (uses = found))
			.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
	});
</script>

<div
	class="border border-l-[3px] border-rule bg-sheet px-3.5 py-2 text-[13px]"
	role="region"
	aria-label="Uses of {title}"
>
	<p class="pb-1 text-quiet">
		<span class="data text-ink">{title}</span> is <span class="data text-ink">$row.{name}</span> in expressions
	</p>
	<UseList {uses} />
</div>
