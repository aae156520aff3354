<script lang="ts">
	import Moon from '@lucide/svelte/icons/moon';
	import Sun from '@lucide/svelte/icons/sun';

	let dark = $state(false);
	$effect(() => void (dark = document.documentElement.dataset.theme === 'dusk'));

	function turn() {
		dark = !dark;
		const theme = dark ? 'dusk' : 'almanac';
		document.documentElement.dataset.theme = theme;
		document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=lax`;
	}
</script>

<button
	class="text-quiet hover:text-ink"
	onclick={turn}
	aria-label={dark ? 'Light theme' : 'Dark theme'}
	title={dark ? 'Light theme' : 'Dark theme'}
>
	{#if dark}<Sun size={17} />{:else}<Moon size={17} />{/if}
</button>
