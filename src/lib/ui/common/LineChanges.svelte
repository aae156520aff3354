<script lang="ts">
	import { compareLines } from '#core/diff/index.ts';

	/** Two texts line by line: what changed, with the lines around it. */
	let { before, after, label }: { before: string; after: string; label: string } = $props();
	const AROUND = 3;

	interface Line {
		side: 'both' | 'before' | 'after';
		number: number;
		text: string;
	}
	const lines = $derived.by(() => {
		const at = { before: 0, after: 0 };
		return compareLines(before, after).flatMap(({ side, text }) =>
			text.split(/(?<=\n)/).map((line): Line => {
				if (side !== 'after') at.before++;
				if (side !== 'before') at.after++;
				return { side, number: side === 'before' ? at.before : at.after, text: line.replace(/\r?\n$/, '') };
			})
		);
	});
	/** Lines that changed or stand near one, in pieces that belong together. */
	const pieces = $derived.by(() => {
		const near = lines.map(() => false);
		for (const [index, { side }] of lines.entries())
			if (side !== 'both') near.fill(true, Math.max(0, index - AROUND), Math.min(lines.length, index + AROUND + 1));
		const out: Line[][] = [];
		for (const [index, line] of lines.entries()) {
			if (!near[index]) continue;
			if (near[index - 1]) out.at(-1)!.push(line);
			else out.push([line]);
		}
		return out;
	});
	const mark = { both: ' ', before: '−', after: '+' };
	const spoken = { both: '', before: 'was ', after: 'is ' };
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="data max-h-96 overflow-auto border border-line bg-sheet py-1" role="region" aria-label={label} tabindex="0">
	{#each pieces as piece, index (index)}
		{#if index > 0}<div class="px-2 text-quiet" aria-hidden="true">⋯</div>{/if}
		{#each piece as line, at (at)}<div
				class="flex gap-2 px-2 {line.side === 'after'
					? 'bg-chip'
					: line.side === 'before'
						? 'text-quiet line-through'
						: ''}"
			>
				<span class="w-10 shrink-0 text-right text-quiet select-none">{line.number}</span><span
					class="w-3 shrink-0 select-none"
					aria-hidden="true">{mark[line.side]}</span
				><span class="wrap-anywhere whitespace-pre-wrap"
					><span class="sr-only">{spoken[line.side]}</span>{line.text}</span
				>
			</div>{/each}
	{:else}<p class="px-2 text-quiet">No line differs.</p>{/each}
</div>
