<script lang="ts">
	import { toasts, undoable } from '../common/toast.svelte.ts';
	import Cells from './Cells.svelte';
	import type { Matrix } from './matrix.svelte.ts';
	import Uses from './Uses.svelte';

	let {
		matrix,
		root,
		name,
		onrenamed
	}: { matrix: Matrix; root: 'env' | 'secret'; name: string; onrenamed: (name: string) => void } = $props();
	function remove() {
		const undo = undoable(matrix, () => matrix.remove(name));
		toasts.show(`${name} is deleted.`, 'note', undo);
	}
</script>

<div class="mb-1 flex gap-8 border border-l-[3px] border-rule bg-sheet px-3.5 py-2">
	{#if root === 'env'}<div class="max-h-96 min-w-0 flex-[3] overflow-auto"><Cells {matrix} {name} /></div>{/if}
	<div class="min-w-0 flex-[2] text-[13px]">
		{#if root === 'env'}
			<label class="mb-2 block text-quiet"
				>what it is for
				<input
					class="field mt-0.5 w-full text-ink"
					aria-label="Note of {name}"
					value={String(matrix.notes[name] ?? '')}
					onchange={(event) => matrix.note(name, event.currentTarget.value)}
				/></label
			>
		{/if}
		<Uses {root} {name} {onrenamed} />
		{#if root === 'env'}<button class="word mt-2 text-fail" onclick={remove}>delete {name} everywhere</button>{/if}
	</div>
</div>
