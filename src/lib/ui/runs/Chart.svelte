<script lang="ts">
	import type { EChartsCoreOption, EChartsType } from 'echarts/core';
	import { colorsNow, type Colors } from './colors.ts';

	let {
		label,
		height,
		option,
		onpick
	}: {
		/** What it shows, in words, for who cannot see it. */
		label: string;
		height: number;
		option(colors: Colors): EChartsCoreOption;
		/** A point was chosen, by its place. */
		onpick?: (index: number) => void;
	} = $props();
	let chart: EChartsType | undefined = $state.raw();
	let colors: Colors | undefined = $state.raw();

	function draw(node: HTMLElement) {
		let gone = false;
		const room = new ResizeObserver(() => chart?.resize());
		const theme = new MutationObserver(() => (colors = colorsNow()));
		void import('./echarts.ts').then(({ begin }) => {
			if (gone) return;
			chart = begin(node);
			colors = colorsNow();
			chart.on('click', (event) => onpick?.(event.dataIndex as number));
			room.observe(node);
			theme.observe(document.documentElement, { attributeFilter: ['data-theme'] });
		});
		return () => {
			gone = true;
			room.disconnect();
			theme.disconnect();
			chart?.dispose();
			chart = undefined;
		};
	}
	$effect(() => {
		if (chart && colors) chart.setOption({ animation: false, ...option(colors) }, true);
	});
</script>

<div role="img" aria-label={label} style="height: {height}px" {@attach draw}></div>
