<script lang="ts">
	import { reportKinds } from '#core/reports/index.ts';

	/** A run as a file, in any form that the command writes. */
	let { id }: { id: string } = $props();
	function take(select: HTMLSelectElement) {
		const link = document.createElement('a');
		link.href = `/api/runs/${id}/report?kind=${select.value}`;
		link.download = '';
		link.click();
		select.value = '';
	}
</script>

<select
	class="field w-32 print:hidden"
	aria-label="Take the run out as"
	onchange={(event) => take(event.currentTarget)}
>
	<option value="">take out as…</option>
	{#each reportKinds as kind (kind.key)}<option value={kind.key} title={kind.doc}>{kind.label}</option>{/each}
</select>
