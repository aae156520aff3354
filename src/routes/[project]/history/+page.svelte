<script lang="ts">
	import HistoryPage from '#ui/history/HistoryPage.svelte';

	let { data } = $props();
</script>

<svelte:head><title>History · Loyal Heron</title></svelte:head>
{#key data.project}<HistoryPage at={data.at} against={data.against} />{/key}
