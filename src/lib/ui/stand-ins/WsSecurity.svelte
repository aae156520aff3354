<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import Setting from '../connection/Setting.svelte';

	/** What is wanted of the Security header of each message. */
	let { document }: { document: DocumentState } = $props();
	const raw = $derived((document.value as JsonObject).wsSecurity);
	const wanted = $derived(isObject(raw) ? (raw as JsonObject) : undefined);
	const text = (key: string) => {
		const value = wanted?.[key];
		return value === undefined || typeof value === 'object' ? '' : String(value);
	};
	function set(key: string, value: Json | undefined) {
		const { [key]: _, ...rest } = wanted ?? {};
		const next = value === undefined || value === '' ? rest : { ...rest, [key]: value };
		document.set(['wsSecurity'], Object.keys(next).length > 0 ? next : undefined, 'WS-Security');
	}
	const first = { user: '{$env.user}', password: '{$secret.password}', timestamp: '5 min' };
	const FIELDS = [
		['user', 'User', 'any'],
		['password', 'Password', 'not looked at'],
		['timestamp', 'Timestamp', 'not wanted; 5 min: at most so old']
	] as const;
</script>

<Setting label="WS-Security"
	><select
		class="bare field-sizing-content cursor-pointer"
		aria-label="WS-Security of messages"
		value={wanted ? 'on' : 'off'}
		onchange={(event) =>
			document.set(['wsSecurity'], event.currentTarget.value === 'on' ? first : undefined, 'WS-Security')}
	>
		<option value="off">is not looked at</option>
		<option value="on">is wanted of each message</option>
	</select></Setting
>
{#if wanted}
	{#each FIELDS as [key, label, none] (key)}<Setting {label}
			><input
				class="bare data w-full"
				aria-label="{label} of WS-Security"
				placeholder={none}
				value={text(key)}
				onchange={(event) => set(key, event.currentTarget.value.trim())}
			/></Setting
		>{/each}
	<Setting label="Password comes"
		><select
			class="bare field-sizing-content cursor-pointer"
			aria-label="How the password comes"
			value={text('passwordType')}
			onchange={(event) => set('passwordType', event.currentTarget.value)}
		>
			<option value="">as text or digest</option>
			<option value="digest">as digest</option>
			<option value="text">as text</option>
		</select></Setting
	>
	<Setting label="Signature"
		><span class="flex items-baseline gap-2"
			><select
				class="bare field-sizing-content cursor-pointer"
				aria-label="Whose signature is wanted"
				value={wanted.certificate === undefined ? '' : wanted.certificate === true ? 'any' : 'file'}
				onchange={(event) => {
					const word = event.currentTarget.value;
					set('certificate', word === '' ? undefined : word === 'any' ? true : 'files/clerk.pem');
				}}
			>
				<option value="">is not wanted</option>
				<option value="any">by any certificate</option>
				<option value="file">by the certificate, or one it signed, of</option>
			</select>
			{#if typeof wanted.certificate === 'string'}<input
					class="bare data min-w-0 flex-1"
					aria-label="Certificate that is trusted"
					value={wanted.certificate}
					onchange={(event) => set('certificate', event.currentTarget.value.trim())}
				/>{/if}</span
		></Setting
	>
{/if}
