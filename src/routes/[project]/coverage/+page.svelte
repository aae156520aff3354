<script lang="ts">
	import CoveragePage from '#ui/coverage/CoveragePage.svelte';

	let { data } = $props();
</script>

<svelte:head><title>Coverage · Loyal Heron</title></svelte:head>
{#key data.project}<CoveragePage run={data.run} />{/key}
