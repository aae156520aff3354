<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { PREFIX } from '#core/model/prefix.ts';
	import X from '@lucide/svelte/icons/x';
	import { tick } from 'svelte';
	import { toasts } from './toast.svelte.ts';

	/** Namespaces by the prefix that XPaths use; one that is being added is none before it has both. */
	let { value, onchange }: { value: Json | undefined; onchange: (value: JsonObject | undefined) => void } = $props();
	const entries = $derived(
		isObject(value) ? Object.entries(value).map(([prefix, one]) => [prefix, String(one)] as [string, string]) : []
	);
	let added: { prefix: string; namespace: string } | undefined = $state();
	let first: HTMLInputElement | undefined = $state();
	let more: HTMLButtonElement | undefined = $state();

	const write = (next: [string, string][]) => onchange(next.length > 0 ? Object.fromEntries(next) : undefined);
	/** What keeps a prefix from being one; empty where nothing does. */
	function wrongWith(prefix: string, index: number): string {
		if (!PREFIX.test(prefix)) return `“${prefix}” is no prefix: a letter, then letters, digits, dots and dashes`;
		return entries.some(([other], at) => other === prefix && at !== index) ? `${prefix} has a namespace already` : '';
	}
	function rename(field: HTMLInputElement, index: number) {
		const [before, namespace] = entries[index]!;
		const prefix = field.value.trim();
		const wrong = wrongWith(prefix, index);
		if (!wrong) return write(entries.with(index, [prefix, namespace]));
		toasts.show(wrong, 'trouble');
		field.value = before;
	}
	function take(part: { prefix?: string; namespace?: string }) {
		if (!added) return;
		added = { ...added, ...part };
		const { prefix, namespace } = added;
		if (!prefix || !namespace) return;
		const wrong = wrongWith(prefix, -1);
		if (wrong) return toasts.show(wrong, 'trouble');
		write([...entries, [prefix, namespace]]);
		end();
	}
	function end() {
		added = undefined;
		void tick().then(() => more?.focus());
	}
	async function add() {
		added = { prefix: '', namespace: '' };
		await tick();
		first?.focus();
	}
</script>

{#snippet cross(label: string, remove: () => void)}
	<button class="p-[5px] text-quiet hover:text-fail" aria-label={label} onclick={remove}><X size={14} /></button>
{/snippet}
{#each entries as [prefix, namespace], index (index)}
	<span class="grid grid-cols-[6rem_1fr_auto] items-center gap-x-2">
		<input
			class="bare data min-h-6"
			aria-label="Prefix {index + 1}"
			value={prefix}
			onchange={(event) => rename(event.currentTarget, index)}
		/><input
			class="bare data min-h-6"
			aria-label="Namespace of {prefix}"
			value={namespace}
			onchange={(event) => write(entries.with(index, [prefix, event.currentTarget.value.trim()]))}
		/>{@render cross(`Remove the prefix ${prefix}`, () => write(entries.toSpliced(index, 1)))}
	</span>
{/each}
{#if added}
	<span class="grid grid-cols-[6rem_1fr_auto] items-center gap-x-2">
		<input
			bind:this={first}
			class="bare data min-h-6"
			aria-label="New prefix"
			placeholder="prefix"
			value={added.prefix}
			onchange={(event) => take({ prefix: event.currentTarget.value.trim() })}
		/><input
			class="bare data min-h-6"
			aria-label="Its namespace"
			placeholder="namespace"
			value={added.namespace}
			onchange={(event) => take({ namespace: event.currentTarget.value.trim() })}
		/>{@render cross('Add no prefix', end)}
	</span>
{:else}<button bind:this={more} class="word soft" onclick={add}>add a prefix</button>{/if}
