<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import type { Fix } from '#core/reach/index.ts';
	import type { Snippet } from 'svelte';
	import { showDuration } from '#core/model/units.ts';
	import ExchangeSheet from '../answer/ExchangeSheet.svelte';
	import { messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import type { Reach } from './reach.svelte.ts';
	import StageMark from './StageMark.svelte';

	let {
		reach,
		title = 'Reach check',
		order = {},
		beforeCheck,
		afterFix,
		children
	}: {
		reach: Reach;
		title?: string;
		/** What is tried in place of what the connection says. */
		order?: { credential?: string; path?: string };
		beforeCheck: () => Promise<void>;
		afterFix: () => Promise<void>;
		children?: Snippet;
	} = $props();
	const project = useProject();
	let suites = $state(false);
	const { report } = $derived(reach);
	const stopped = $derived(reach.rows.findIndex((row) => row.state === 'failed'));
	const when = $derived.by(() => {
		if (!report) return '';
		const at = new Date(report.startedAt);
		const today = at.toDateString() === new Date().toDateString();
		return `${today ? 'today' : at.toLocaleDateString()} ${at.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}`;
	});
	const words = $derived(
		Object.entries({ ...order, ...(project().environment ? { env: project().environment } : {}) })
			.map(([name, value]) => ` --${name} ${value}`)
			.join('')
	);
	const terminal = $derived(`heron reach ${reach.target}${words}`);
	async function check(more: { method?: string } = {}) {
		await beforeCheck();
		await reach.check(project().environment, { ...order, suites, ...more });
	}

	async function fix(offered: Fix) {
		if (offered.method) return check({ method: offered.method });
		try {
			await beforeCheck();
			const takeBack = await reach.fix(offered);
			await afterFix();
			toasts.show(`Done: ${offered.label}.`, 'note', {
				label: 'undo',
				run: () =>
					void takeBack()
						.then(afterFix)
						.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
			});
			await check();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<section aria-label={title} aria-busy={reach.running}>
	<div class="flex items-baseline gap-3 pb-1">
		<h2 class="label">{title}</h2>
		<span class="text-[13px] text-quiet" role="status">
			{#if reach.running}under way, {reach.stages.length} of 7
				<button class="word ml-1" onclick={() => reach.stop()}>stop</button>
			{:else if report}{when} in {report.environment || 'no environment'} · {stopped >= 0
					? `stopped at stage ${stopped + 1} of 7`
					: report.outcome === 'warning'
						? 'reached, with something to know'
						: 'reached'} · {showDuration(report.ms)}
			{:else if reach.stages.length > 0}stopped before its end
			{:else}not done yet in {project().environment || 'this project'}{/if}
		</span>
		<label class="ml-auto flex items-center gap-1.5 text-xs whitespace-nowrap text-quiet"
			><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={suites} /> with cipher suites</label
		>
		<button class="press go" disabled={reach.running} onclick={() => check()}
			>{report || reach.stages.length > 0 ? 'Check again' : 'Check now'}</button
		>
	</div>
	{#if children}<div class="pb-2">{@render children()}</div>{/if}
	{#if reach.trouble}<p class="note" role="alert">{reach.trouble}</p>{/if}
	{#if !children || reach.running || reach.stages.length > 0}<ol>
			{#each reach.rows as row (row.key)}
				{@const wrong = row.state === 'failed'}
				<li
					class="grid grid-cols-[24px_124px_64px_minmax(0,1fr)] items-baseline gap-x-2.5 border-b border-line py-2 pl-1 {wrong
						? 'bg-(--fail-wash)'
						: ''}"
					aria-label={row.title}
				>
					<StageMark state={row.state} />
					<span class="font-semibold">{row.title}</span>
					{#if row.state === 'waiting'}
						<span></span><span class="text-quiet">{reach.running ? 'waiting' : 'not looked at yet'}</span>
					{:else}
						<span class="data text-right text-quiet"
							>{row.state === 'later' || row.state === 'none' ? '' : showDuration(row.ms)}</span
						>
						<div class="min-w-0 pr-2">
							<p class={wrong ? 'font-semibold text-fail' : row.state === 'later' ? 'text-quiet' : ''}>{row.finding}</p>
							{#if row.meaning}<p class="text-[13px]">{row.meaning}</p>{/if}
							{#if row.facts.length > 0 && row.state !== 'later'}
								<dl class="mt-1 grid grid-cols-[88px_minmax(0,1fr)] text-[13px]">
									{#each row.facts as [name, value], index (index)}<dt
											class="data border-t border-line py-0.5 text-xs text-quiet"
										>
											{name}
										</dt>
										<dd class="data border-t border-line py-0.5 text-xs break-all">{value}</dd>{/each}
								</dl>
							{/if}
							{#if row.fixes.length > 0}
								<p class="flex flex-wrap gap-2 pt-2 pb-1">
									{#each row.fixes as offered, index (offered.label)}<button
											class="press {index === 0 && wrong ? 'go' : ''}"
											disabled={reach.running}
											onclick={() => fix(offered)}>{offered.label}</button
										>{/each}
								</p>
							{/if}
						</div>
					{/if}
				</li>
			{/each}
		</ol>{/if}
	{#if report?.exchanges && report.exchanges.length > 0}
		<details class="pt-2">
			<summary class="cursor-pointer text-[13px] text-quiet"
				>what was sent and answered ({report.exchanges.length})</summary
			>
			{#each report.exchanges as exchange, index (index)}<ExchangeSheet {exchange} />{/each}
		</details>
	{/if}
	<p class="flex items-baseline gap-2 py-2 text-[13px] text-quiet">
		The same in a terminal: <code class="data text-ink">{terminal}</code>
		<button class="word" onclick={() => copyText(terminal)}>copy</button>
	</p>
</section>
