<script lang="ts">
	import Moon from '@lucide/svelte/icons/moon';
	import Sun from '@lucide/svelte/icons/sun';

	let dark = $state(false);
	const html = () => document.documentElement;
	$effect(() => {
		const look = () => void (dark = html().dataset.theme === 'dusk');
		look();
		// it follows the system until one is chosen
		const changed = new MutationObserver(look);
		changed.observe(html(), { attributeFilter: ['data-theme'] });
		return () => changed.disconnect();
	});

	// paper is light
	let before: string | undefined;
	const print = () => {
		before = html().dataset.theme;
		html().dataset.theme = 'almanac';
	};
	const printed = () => {
		if (before) html().dataset.theme = before;
	};

	function turn() {
		dark = !dark;
		const theme = dark ? 'dusk' : 'almanac';
		html().dataset.theme = theme;
		document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=lax`;
	}
</script>

<svelte:window onbeforeprint={print} onafterprint={printed} />
<button
	class="text-quiet hover:text-ink"
	onclick={turn}
	aria-label={dark ? 'Light theme' : 'Dark theme'}
	title={dark ? 'Light theme' : 'Dark theme'}
>
	{#if dark}<Sun size={17} />{:else}<Moon size={17} />{/if}
</button>
