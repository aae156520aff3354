<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import MethodMark from '#ui/common/MethodMark.svelte';
	import Outcome from '#ui/common/Outcome.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
</script>

<svelte:head><title>Stand-ins · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="flex items-baseline gap-4 border-b-2 border-ink pb-2.5">
		<h1>Stand-ins</h1>
		<span class="text-quiet">simulated services on this machine, to try things on</span><button
			class="press ml-auto"
			onclick={() => invalidateAll()}>Look again</button
		>
	</div>
	{#each data.standins as standin (standin.name)}
		<section class="border-b border-line py-2" aria-label={standin.title}>
			<div class="flex items-baseline gap-3">
				<h2>{standin.title}</h2>
				<span class="data">{standin.address}</span>
				<button class="word soft" onclick={() => navigator.clipboard.writeText(standin.address)}>copy</button>
				<span class="ml-auto flex items-center gap-1.5"
					><Outcome outcome={standin.up ? 'passed' : 'error'} word={false} />{standin.up
						? 'answers'
						: 'does not answer'}</span
				>
			</div>
			{#if standin.routes.length > 0}
				<ul class="data mt-1 columns-2 lg:columns-3">
					{#each standin.routes as route (route.method + route.path)}<li class="flex items-center gap-1.5 truncate">
							<MethodMark method={route.method} />{route.method}
							{route.path}
						</li>{/each}
				</ul>
				<p class="mt-1 text-[13px]">
					<a class="word soft" href={standin.definition} target="_blank" rel="noreferrer">its definition, OpenAPI 3.1</a
					>
				</p>
			{:else if standin.about}<p class="mt-1 max-w-4xl text-[13px] text-quiet">{standin.about}</p>{/if}
		</section>
	{:else}<p class="py-6 text-quiet">
			None was started beside this server. <span class="data">npm run demo</span> starts them;
			<span class="data">heron standins</span> does so alone.
		</p>{/each}
</div>
