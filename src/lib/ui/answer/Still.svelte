<script lang="ts">
	import type { Reading } from './reader.ts';

	let { reading }: { reading: Reading } = $props();
	let picture = $state('');
	let page = $state('');

	// nothing in it is carried out and nothing is fetched: neither scripts, nor forms, nor what it refers to
	const GUARD =
		'<meta http-equiv="content-security-policy" content="default-src \'none\'; style-src \'unsafe-inline\'; img-src data:">';
	$effect(() => {
		let current = true;
		let url = '';
		void reading.bytes().then((bytes) => {
			if (!current) return;
			if (reading.form === 'html') page = GUARD + new TextDecoder().decode(bytes);
			else picture = url = URL.createObjectURL(new Blob([new Uint8Array(bytes)], { type: reading.type }));
		});
		return () => {
			current = false;
			if (url) URL.revokeObjectURL(url);
		};
	});
</script>

{#if picture}<img src={picture} alt="What the server sent" class="max-h-80 max-w-full border border-line bg-white" />
{:else if page}<iframe
		title="The page that the server sent, without scripts"
		sandbox=""
		srcdoc={page}
		class="h-80 w-full border border-line bg-white"
	></iframe>{/if}
