<script lang="ts">
	import { page } from '$app/state';
</script>

<svelte:head><title>Not here · Loyal Heron</title></svelte:head>
<main class="mx-auto max-w-xl p-16">
	<h1>{page.error?.message ?? 'This could not be shown'}</h1>
	<p class="mt-2 text-quiet">
		{page.status === 404 ? 'Perhaps it was renamed or deleted.' : 'What you typed before is saved.'}
	</p>
	<p class="mt-4 flex gap-4">
		<a class="word" href="/">to the start</a><button class="word" onclick={() => location.reload()}>try again</button>
	</p>
</main>
