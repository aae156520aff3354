<script lang="ts">
	import { page } from '$app/state';
	import { untrack } from 'svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import { guide } from './guide.svelte.ts';
	import { guideSteps, type Seen } from './steps.ts';

	/** One step of the first five minutes at a time; it stands beside what it speaks of, never before it. */
	const project = useProject();
	const step = $derived(guideSteps[guide.at]);
	const place = $derived(page.url.pathname.split('/').slice(2).join('/'));
	const see = (): Seen => ({
		place,
		environment: project().environment,
		run: project().lastRunKnown ? (project().lastRun?.id ?? '') : undefined,
		shows: (selector) => document.querySelector(selector) !== null
	});
	let done = $state(false);
	/** What comes next is shown when there was time to read that this is done. */
	const READ_MS = 1200;
	$effect(() => {
		const now = step;
		done = false;
		if (!now?.done) return;
		let before = untrack(see);
		let next: ReturnType<typeof setTimeout> | undefined;
		const timer = setInterval(() => {
			if (next) return;
			// the last run is told a moment after the page is there
			if (before.run === undefined) before = see();
			if (!now.done!(see(), before)) return;
			done = true;
			next = setTimeout(() => guide.go(guide.at + 1), READ_MS);
		}, 300);
		return () => {
			clearInterval(timer);
			clearTimeout(next);
		};
	});
</script>

<section
	class="flex shrink-0 flex-wrap items-baseline gap-x-4 gap-y-1 border-t border-rule bg-sheet px-5 py-2 text-[13px] print:hidden"
	aria-label="The first five minutes"
>
	<p class="min-w-64 flex-1" role="status">
		{#if step}<span class="text-quiet">{guide.at + 1} of {guideSteps.length}</span>
			<b class="ml-1">{step.title}{done ? ': done' : '.'}</b>
			{step.text}{:else}<b>That is the way through.</b> The key / finds anything, ? lists all keys, and “New project” in the
			menu of projects begins your own.{/if}
	</p>
	<span class="flex items-baseline gap-3">
		{#if step && place !== step.place && !place.startsWith(`${step.place}/`)}<a
				class="press"
				href="/{project().name}/{step.place}">Go there</a
			>{/if}
		{#if guide.at > 0}<button class="word soft" onclick={() => guide.go(guide.at - 1)}>back</button>{/if}
		{#if step}<button class="word" onclick={() => guide.go(guide.at + 1)}>next</button>
		{:else}<button class="word" onclick={() => guide.go(0)}>from the start</button>{/if}
		<button class="word soft" onclick={() => guide.show(false)}>close the guide</button>
	</span>
</section>
