<script lang="ts">
	import Lock from '@lucide/svelte/icons/lock';
	import CodeField from '../editor/CodeField.svelte';
	import { hasExpression } from '#core/values/index.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import { messageOf } from './api.ts';
	import { keepSecret, referenceTo, secretIn } from './secrets.ts';
	import { toasts } from './toast.svelte.ts';

	let {
		value,
		label,
		suggested,
		files,
		onchange
	}: {
		value: string;
		label: string;
		/** The name that a new secret gets. */
		suggested: string;
		/** A key: files of the project that may hold it instead, and values of many lines. */
		files?: RegExp;
		onchange: (value: string) => void;
	} = $props();
	const project = useProject();
	const name = $derived(secretIn(value));
	const known = $derived(name !== undefined && project().secrets.includes(name));
	const offered = $derived(files ? project().overview.files.filter((path) => files.test(path)) : []);
	const isFile = $derived(offered.includes(value));
	const plain = $derived(value !== '' && !hasExpression(value) && !isFile);
	let setting = $state(false);
	let fresh = $state('');
	let everywhere = $state(false);
	let busy = $state(false);

	async function keep(secret: string, text: string) {
		busy = true;
		try {
			await keepSecret(project(), everywhere ? '' : project().environment, secret, text);
			onchange(referenceTo(secret));
			setting = false;
			fresh = '';
			toasts.show(`${secret} is in the vault${everywhere ? '' : `, for ${project().environment}`}.`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
		}
	}
	function submit(event: SubmitEvent) {
		event.preventDefault();
		if (fresh) void keep(name ?? suggested, fresh);
	}
</script>

<CodeField {value} {label} placeholder={referenceTo(suggested)} {onchange} />
<p class="flex min-h-7 flex-wrap items-center gap-2 text-xs text-quiet">
	{#if name}
		<Lock size={11} aria-hidden="true" />
		{#if known}<span class="text-pass">set in {project().environment || 'this project'}, never shown</span>
		{:else}<span class="font-semibold text-fail">not set in {project().environment || 'this project'}</span>{/if}
		<button class="word soft" aria-expanded={setting} onclick={() => (setting = !setting)}
			>{known ? 'replace' : 'set it'}</button
		>
	{:else if isFile}a file of the project
	{:else if plain}
		<span class="text-fail">this would stand in a file</span>
		<button class="word" disabled={busy} onclick={() => keep(suggested, value)}>move it to the vault</button>
	{:else if value === ''}
		<button class="word soft" aria-expanded={setting} onclick={() => (setting = !setting)}>keep a secret</button>
	{/if}
	{#if offered.length > 0}
		<select
			class="bare field-sizing-content cursor-pointer text-xs"
			aria-label="A file that holds the {label.toLowerCase()}"
			value=""
			onchange={(event) => {
				if (event.currentTarget.value) onchange(event.currentTarget.value);
				event.currentTarget.value = '';
			}}
		>
			<option value="">or take a file</option>
			{#each offered as path (path)}<option value={path}>{path}</option>{/each}
		</select>
	{/if}
</p>
{#if setting}
	<form class="my-1 flex flex-wrap items-center gap-2" onsubmit={submit}>
		{#if files}<textarea
				class="field data w-full [-webkit-text-security:disc]"
				rows="3"
				autocomplete="off"
				spellcheck="false"
				aria-label="Value of {name ?? suggested}"
				placeholder="its value, PEM with its line breaks"
				bind:value={fresh}></textarea>
		{:else}<input
				class="field data w-44"
				type="password"
				autocomplete="new-password"
				aria-label="Value of {name ?? suggested}"
				placeholder="its value"
				bind:value={fresh}
			/>{/if}
		<button class="press" disabled={!fresh || busy}>Keep in the vault</button>
		<label class="flex items-center gap-1 text-xs text-quiet"
			><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={everywhere} /> in every environment</label
		>
	</form>
{/if}
