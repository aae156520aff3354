<script lang="ts">
	import { writeJson } from '#core/model/json.ts';
	import type { Param } from '#core/model/params.ts';
	import X from '@lucide/svelte/icons/x';
	import CodeField from '../editor/CodeField.svelte';

	let {
		word,
		params,
		onchange,
		typed = false
	}: { word: string; params: Param[]; onchange: (params: Param[]) => void; typed?: boolean } = $props();

	const change = (index: number, part: Partial<Param>) =>
		onchange(params.map((param, at) => (at === index ? { ...param, ...part } : param)));
	/** Numbers, true and false keep their type; everything else is text. */
	function read(text: string) {
		if (/^-?(0|[1-9]\d{0,14})(\.\d+)?$/.test(text)) return Number(text);
		return text === 'true' ? true : text === 'false' ? false : text;
	}
	const show = (value: unknown) =>
		typeof value === 'object' && value !== null ? writeJson(value) : String(value ?? '');
</script>

{#each params as param, index (index)}
	<tr class="group border-b border-line" class:is-off={param.off}>
		<td class="w-14 py-0.5 text-[12.5px] text-quiet">{word}</td>
		<td class="w-[34%] py-0.5 pr-2"
			><input
				class="bare data w-full"
				aria-label="Name of {word} {index + 1}"
				value={param.name}
				oninput={(event) => change(index, { name: event.currentTarget.value })}
			/></td
		>
		<td class="overflow-hidden py-0.5"
			><CodeField
				value={show(param.value)}
				label="Value of {word} {param.name || index + 1}"
				onchange={(text) => change(index, { value: typed || typeof param.value !== 'string' ? read(text) : text })}
			/></td
		>
		<td class="w-14 py-0.5 text-right whitespace-nowrap">
			<input
				type="checkbox"
				class="checkbox m-[5px] h-3.5 w-3.5 align-middle"
				checked={!param.off}
				aria-label="{word} {param.name} is sent"
				title="is sent"
				onchange={(event) => change(index, { off: !event.currentTarget.checked })}
			/>
			<button
				class="p-[5px] align-middle text-quiet hover:text-fail"
				aria-label="Remove {word} {param.name}"
				onclick={() => onchange(params.filter((_, at) => at !== index))}><X size={14} /></button
			>
		</td>
	</tr>
{/each}
