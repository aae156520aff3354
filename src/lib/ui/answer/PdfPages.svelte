<script lang="ts">
	import { textOf } from '#core/errors.ts';
	import ChevronLeft from '@lucide/svelte/icons/chevron-left';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import { openPdf, type Pdf } from './pdf.ts';
	import type { Reading } from './reader.ts';

	let { reading }: { reading: Reading } = $props();
	let pdf: Pdf | undefined = $state.raw();
	let number = $state(1);
	let text = $state('');
	let trouble = $state('');
	let canvas: HTMLCanvasElement | undefined = $state();
	/** What the page is drawn for, in CSS pixels. */
	const WIDTH = 560;

	$effect(() => {
		let current = true;
		let opened: Pdf | undefined;
		trouble = '';
		reading
			.bytes()
			.then(openPdf)
			.then((found) => {
				opened = found;
				if (!current) return void found.close();
				pdf = found;
				number = 1;
			})
			.catch((error: unknown) => current && (trouble = textOf(error)));
		return () => {
			current = false;
			pdf = undefined;
			opened?.close();
		};
	});
	$effect(() => {
		if (!pdf || !canvas) return;
		const drawing = pdf.draw(number, canvas, WIDTH);
		let current = true;
		drawing.done
			.then((found) => current && (text = found))
			.catch((error: unknown) => current && (trouble = textOf(error)));
		return () => {
			current = false;
			drawing.stop();
		};
	});
</script>

{#if trouble}<p class="py-1" role="alert">
		The document cannot be drawn: {trouble}. It can be saved, and its bytes can be looked at.
	</p>
{:else if pdf}
	<p class="flex items-center gap-1 pb-1 text-[13px] text-quiet">
		<button
			class="p-1 hover:text-ink disabled:opacity-40"
			aria-label="Page before this one"
			disabled={number <= 1}
			onclick={() => number--}><ChevronLeft size={14} /></button
		>
		<span role="status">page {number} of {pdf.pages}</span>
		<button
			class="p-1 hover:text-ink disabled:opacity-40"
			aria-label="Page after this one"
			disabled={number >= pdf.pages}
			onclick={() => number++}><ChevronRight size={14} /></button
		>
		<span class="pl-2">drawn as a picture: nothing in it is carried out</span>
	</p>
	<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
	<div class="max-h-96 overflow-auto border border-line bg-white" role="group" aria-label="Page {number}" tabindex="0">
		<canvas bind:this={canvas} class="mx-auto block" aria-hidden="true"></canvas>
		<p class="sr-only">{text}</p>
	</div>
{:else}<p class="py-1 text-quiet" role="status">drawing…</p>{/if}
