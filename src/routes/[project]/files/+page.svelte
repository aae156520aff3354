<script lang="ts">
	import FilesPage from '#ui/files/FilesPage.svelte';

	let { data } = $props();
</script>

<svelte:head><title>Files · Loyal Heron</title></svelte:head>
<FilesPage files={data.files} />
