<script lang="ts">
	import DefinitionsPage from '#ui/definitions/DefinitionsPage.svelte';

	let { data } = $props();
</script>

<svelte:head><title>Definitions · Loyal Heron</title></svelte:head>
{#key data.project}<DefinitionsPage file={data.file} operation={data.operation} />{/key}
