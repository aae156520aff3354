<script lang="ts">
	import { stripOf, type PastRun, type StripRow } from '#core/gate/index.ts';
	import StandingMark from './StandingMark.svelte';
	import { STANDING_WORDS, stepHash } from './standing.ts';

	/** Steps × runs; each mark leads to the step in that run. */
	let {
		past,
		project,
		titleOf
	}: {
		/** The newest first. */
		past: PastRun[];
		project: string;
		/** The title of a step, where it has one. */
		titleOf(scenario: string, step: string): string;
	} = $props();
	const rows = $derived(stripOf(past));
	const runs = $derived([...past].reverse());
	const telling = $derived(
		rows.filter(
			(row) => row.trend || row.marks.some((mark) => mark && mark.standing !== 'passed' && mark.standing !== 'skipped')
		)
	);
	let all = $state(false);
	const MOST = 12;
	const shown = $derived(all ? rows : telling.length > 0 ? telling.slice(0, MOST) : rows.slice(0, 6));
	/** The mark that the Tab key comes to. */
	let at = $state({ row: 0, run: -1 });
	const last = $derived(runs.length - 1);
	const isAt = (row: number, run: number) => at.row === row && (at.run < 0 ? run === last : at.run === run);

	function move(event: KeyboardEvent, row: number, run: number) {
		const by: Record<string, [number, number]> = {
			ArrowLeft: [0, -1],
			ArrowRight: [0, 1],
			ArrowUp: [-1, 0],
			ArrowDown: [1, 0],
			Home: [0, -run],
			End: [0, last - run]
		};
		const way = by[event.key];
		if (!way) return;
		event.preventDefault();
		at = { row: Math.min(shown.length - 1, Math.max(0, row + way[0])), run: Math.min(last, Math.max(0, run + way[1])) };
		const table = (event.currentTarget as HTMLElement).closest('table')!;
		table.querySelector<HTMLElement>(`[data-at="${at.row} ${at.run}"]`)?.focus();
	}
	const nameOf = ({ scenario, step }: StripRow) => titleOf(scenario, step) || step;
	/** Only what stands here is told. */
	const legend = $derived.by(() => {
		const here = rows.flatMap((row) => row.marks.flatMap((mark) => mark?.standing ?? []));
		return (['passed', 'failed', 'error', 'unsteady', 'quarantined', 'skipped'] as const).filter((one) =>
			here.includes(one)
		);
	});
</script>

<table class="w-full table-fixed border-collapse text-[13px]" aria-label="The last {runs.length} runs, step by step">
	<colgroup
		><col class="w-32" />{#each runs as run (run.id)}<col />{/each}<col class="w-[84px]" /></colgroup
	>
	<thead class="sr-only"
		><tr
			><th scope="col">step</th>{#each runs as run (run.id)}<th scope="col">run {run.number}</th>{/each}<th scope="col"
				>how it does</th
			></tr
		></thead
	>
	<tbody>
		{#each shown as row, r (r)}
			<tr class="hover:bg-mist">
				<th scope="row" class="truncate py-px pr-2 text-left font-normal" title="{row.scenario} › {row.step}"
					>{nameOf(row)}</th
				>
				{#each row.marks as mark, c (runs[c]!.id)}
					<td class="p-0"
						>{#if mark}<a
								class="block w-[11px] focus-visible:outline-offset-0"
								tabindex={isAt(r, c) ? 0 : -1}
								data-at="{r} {c}"
								href="/{project}/runs/{runs[c]!.id}{stepHash(row.scenario, row.step)}"
								title="run {runs[c]!.number}: {STANDING_WORDS[mark.standing]}"
								aria-label="{nameOf(row)}, run {runs[c]!.number}: {STANDING_WORDS[mark.standing]}"
								onkeydown={(event) => move(event, r, c)}><StandingMark standing={mark.standing} /></a
							>{:else}<StandingMark standing={undefined} />{/if}</td
					>
				{/each}
				<td class="truncate pl-2 text-xs text-quiet">{row.trend}</td>
			</tr>
		{/each}
	</tbody>
</table>
<p class="mt-1.5 flex flex-wrap items-center gap-x-3 text-xs text-quiet">
	{#each legend as one (one)}<span class="flex items-center gap-1"
			><StandingMark standing={one} />{STANDING_WORDS[one]}</span
		>{/each}
	{#if rows.length > shown.length || all}<button class="word ml-auto" aria-pressed={all} onclick={() => (all = !all)}
			>{all ? 'only what did not always pass' : `all ${rows.length} steps`}</button
		>{/if}
</p>
