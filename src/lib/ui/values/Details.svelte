<script lang="ts">
	import { toasts } from '../common/toast.svelte.ts';
	import type { Matrix } from './matrix.svelte.ts';
	import Uses from './Uses.svelte';

	let {
		matrix,
		root,
		name,
		onrenamed
	}: { matrix: Matrix; root: 'env' | 'secret'; name: string; onrenamed: (name: string) => void } = $props();
	function remove() {
		matrix.remove(name);
		toasts.show(`${name} is deleted.`, 'note', { label: 'undo', run: () => matrix.undo() });
	}
</script>

<div class="mb-1 flex gap-8 border border-l-[3px] border-rule bg-sheet px-3.5 py-2">
	<div class="min-w-0 flex-1"><Uses {root} {name} {onrenamed} /></div>
	{#if root === 'env'}
		<div class="w-80 text-[13px]">
			<label class="block text-quiet"
				>what it is for
				<input
					class="field mt-0.5 w-full text-ink"
					aria-label="Note of {name}"
					value={String(matrix.notes[name] ?? '')}
					onchange={(event) => matrix.note(name, event.currentTarget.value)}
				/></label
			>
			<button class="word mt-2 text-fail" onclick={remove}>delete {name} everywhere</button>
		</div>
	{/if}
</div>
