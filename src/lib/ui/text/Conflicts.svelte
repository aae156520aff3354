<script lang="ts">
	import { compareLines } from '#core/diff/index.ts';
	import { counted } from '#core/messages.ts';
	import type { Conflict } from '#core/model/conflict.ts';

	/** What a merge left: both sides of each place, to choose from. */
	let {
		conflicts,
		onchoose,
		ongo
	}: {
		conflicts: readonly Conflict[];
		onchoose: (conflict: Conflict, text: string) => void;
		ongo: (line: number) => void;
	} = $props();
	const sides = ({ ours, theirs }: Conflict) => {
		const pieces = compareLines(ours, theirs);
		return {
			ours: pieces.filter(({ side }) => side !== 'after'),
			theirs: pieces.filter(({ side }) => side !== 'before')
		};
	};
</script>

<section class="max-h-[45vh] overflow-auto border-b border-line py-2" aria-label="Conflicts">
	<p class="font-semibold text-fail">
		A merge left both sides in {counted(conflicts.length, 'place')}: choose what stays.
	</p>
	<ul>
		{#each conflicts as conflict, index (conflict.from)}
			{@const shown = sides(conflict)}
			<li class="border-t border-line py-2" aria-label="Conflict {index + 1}">
				<p class="flex flex-wrap items-baseline gap-3 text-[13px]">
					<button class="word" onclick={() => ongo(conflict.line)}>line {conflict.line}</button>
					<button class="press" onclick={() => onchoose(conflict, conflict.ours)}
						>Keep {conflict.ourName || 'ours'}</button
					>
					<button class="press" onclick={() => onchoose(conflict, conflict.theirs)}
						>Take {conflict.theirName || 'theirs'}</button
					>
					<button class="word soft" onclick={() => onchoose(conflict, conflict.ours + conflict.theirs)}
						>both, one after the other</button
					>
				</p>
				<div class="mt-1 grid grid-cols-2 gap-x-4 max-[640px]:grid-cols-1">
					{#each [['ours', conflict.ourName || 'ours', 'before'], ['theirs', conflict.theirName || 'theirs', 'after']] as const as [side, name, mark] (side)}
						<figure class="min-w-0">
							<figcaption class="text-[13px] text-quiet">{name}</figcaption>
							<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
							<pre
								class="data overflow-auto border border-line bg-sheet px-2 py-1"
								tabindex="0"
								role="region"
								aria-label="{name}, conflict {index + 1}">{#each shown[side] as piece, at (at)}<span
										class={piece.side === mark ? 'bg-chip' : ''}>{piece.text}</span
									>{:else}<span class="text-quiet">nothing</span>{/each}</pre>
						</figure>
					{/each}
				</div>
			</li>
		{/each}
	</ul>
</section>
