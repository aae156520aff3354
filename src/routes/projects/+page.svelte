<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import Begin from '#ui/projects/Begin.svelte';
	import { api, messageOf } from '#ui/common/api.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import Mark from '#ui/shell/Mark.svelte';
	import Theme from '#ui/shell/Theme.svelte';
	import Toasts from '#ui/shell/Toasts.svelte';
	import Verdict from '#ui/run/Verdict.svelte';
	import { counted } from '#core/messages.ts';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	let words = $state('');
	const shown = $derived(
		data.projects.filter(({ name, title }) => `${name} ${title}`.toLowerCase().includes(words.trim().toLowerCase()))
	);
	/** More than that are looked for by name. */
	const MANY = 8;
	const when = (ms: number) => new Date(ms).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
	/** As the server keeps what is removed. */
	const WEEK_MS = 7 * 86_400_000;

	async function restore(name: string) {
		try {
			await api.post(`/projects/${name}/restore`);
			await invalidateAll();
			toasts.show(`${name} is back, with its runs and secrets.`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<svelte:head><title>Projects · Loyal Heron</title></svelte:head>
<div class="flex h-screen flex-col">
	<header class="flex h-12 shrink-0 items-center gap-6 border-b border-rule px-5">
		<Mark /><span class="font-bold">Loyal Heron</span><span class="ml-auto flex items-center"><Theme /></span>
	</header>
	<main class="min-h-0 flex-1 overflow-auto px-5 pt-3.5 pb-8">
		<div class="mx-auto max-w-4xl">
			<h1 class="border-b-2 border-ink pb-2.5">
				{data.projects.length > 0 ? 'Begin a project' : 'Begin your first project'}
			</h1>
			<Begin />
			{#if data.projects.length > 0}
				<div class="mt-8 flex items-baseline gap-4 border-b-2 border-ink pb-2.5">
					<h2 class="text-xl">Projects</h2>
					{#if data.projects.length > MANY}<input
							class="field ml-auto w-56"
							placeholder="title or name"
							aria-label="Filter the projects"
							bind:value={words}
						/>{/if}
				</div>
				<ul aria-label="Projects">
					{#each shown as one (one.name)}
						<li class="border-b border-line">
							<a
								class="flex items-baseline gap-x-3 py-2 hover:bg-mist max-[640px]:flex-wrap"
								href="/{one.name}/collections"
							>
								<span class="min-w-0 truncate font-semibold">{one.title}</span>
								<span class="data shrink-0 text-quiet">{one.name}</span>
								<span class="ml-auto shrink-0 text-[13px] text-quiet">{counted(one.collections, 'collection')}</span>
								<span class="flex w-64 shrink-0 justify-end gap-2 text-[13px] max-[760px]:w-auto"
									>{#if one.last}<Verdict run={one.last} />
										<span class="text-quiet">{when(one.last.startedAt)}</span>{:else}<span class="text-quiet"
											>did not run yet</span
										>{/if}</span
								>
							</a>
						</li>
					{:else}<li class="py-3 text-quiet">No project is called “{words}”.</li>{/each}
				</ul>
			{/if}
			{#if data.removed.length > 0}
				<h2 class="mt-8 border-b border-rule pb-1.5 text-base">Removed</h2>
				<ul aria-label="Removed projects">
					{#each data.removed as one (one.name)}
						<li class="flex items-baseline gap-3 border-b border-line py-1.5 text-[13px]">
							<span class="data">{one.name}</span>
							<span class="text-quiet"
								>since {when(one.removedAt)}; it goes for good on {when(one.removedAt + WEEK_MS)}</span
							>
							<button class="word ml-auto" onclick={() => restore(one.name)}>bring {one.name} back</button>
						</li>
					{/each}
				</ul>
			{/if}
		</div>
	</main>
</div>
<Toasts />
