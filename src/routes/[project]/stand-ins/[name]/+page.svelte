<script lang="ts">
	import StandInPage from '#ui/stand-ins/StandInPage.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
</script>

{#key data.stored.path}<StandInPage stored={data.stored} list={data.list} />{/key}
