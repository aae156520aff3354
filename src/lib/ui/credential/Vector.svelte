<script lang="ts">
	import { writeJson, isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams, type Param } from '#core/model/params.ts';
	import { getIn, type Path } from '#core/model/path.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import Setting from '../connection/Setting.svelte';
	import ParamRows from '../ledger/ParamRows.svelte';

	let { document, lines }: { document: DocumentState; lines: string[] } = $props();
	const vector = $derived((document.value as JsonObject).vector);
	const text = (...path: Path): string => {
		const value = getIn(vector, path);
		return value === undefined || value === null ? '' : typeof value === 'object' ? writeJson(value) : String(value);
	};
	const set = (path: Path, value: Json | undefined) =>
		document.set(['vector', ...path], value === '' ? undefined : value, 'the test vector');
	const start: JsonObject = {
		request: { send: 'GET https://host.example/path?b=2&a=1' },
		time: '2027-03-01T12:00:00Z',
		secrets: {},
		expect: {}
	};
	const more = (params: Param[], name = '') => writeParams([...params, { name, value: '', off: false }]);
	const maps = [
		['request', 'headers', 'header', 'headers', 'A header of the vector'],
		['secrets', '', 'secret', 'test secrets', 'A secret of the vector'],
		['variables', '', 'variable', 'variables', 'A variable of the vector'],
		['expect', '', 'expected', 'expected', 'An expected value']
	] as const;
</script>

<section class="pt-3" aria-label="Test vector">
	<h2 class="label">Test vector</h2>
	<p class="max-w-3xl pb-1 text-[13px] text-quiet">
		A fixed request, time and test secrets, and what lines must give for them: mostly an example from the other side’s
		description. It stays in the file and is no secret.
	</p>
	{#if !isObject(vector)}
		<button class="press" onclick={() => document.set(['vector'], start, 'a test vector')}>Write one</button>
	{:else}
		<div class="grid grid-cols-2 gap-x-8">
			<div>
				<Setting label="Request"
					><input
						class="bare data w-full"
						aria-label="Request of the vector"
						placeholder="GET https://host/path"
						value={text('request', 'send')}
						oninput={(event) => set(['request', 'send'], event.currentTarget.value)}
					/></Setting
				>
				<Setting label="Body"
					><textarea
						class="bare data field-sizing-content w-full"
						rows="1"
						aria-label="Body of the vector"
						value={text('request', 'body')}
						oninput={(event) => set(['request', 'body'], event.currentTarget.value)}></textarea></Setting
				>
				<Setting label="Time"
					><input
						class="bare data w-full"
						aria-label="Time of the vector"
						placeholder="2027-03-01T12:00:00Z, or seconds since 1970"
						value={text('time')}
						onchange={(event) => {
							const given = event.currentTarget.value.trim();
							set(['time'], /^\d+$/.test(given) ? Number(given) : given);
						}}
					/></Setting
				>
				<Setting label="Nonce"
					><input
						class="bare data w-full"
						aria-label="Nonce of the vector"
						placeholder="what $nonce() gives"
						value={text('nonce')}
						oninput={(event) => set(['nonce'], event.currentTarget.value)}
					/></Setting
				>
			</div>
			<div>
				{#each maps as [key, inner, word, label, about] (key)}
					{@const path = inner ? [key, inner] : [key]}
					{@const params = parseParams(getIn(vector, path))}
					<Setting {label}>
						<table class="w-full table-fixed border-collapse [&_td:first-child]:hidden" aria-label={label}>
							<tbody
								><ParamRows
									{word}
									{params}
									onchange={(next) => set(path, next.length ? writeParams(next) : undefined)}
								/></tbody
							>
						</table>
						{#if key === 'expect'}
							<select
								class="bare field-sizing-content cursor-pointer text-xs text-quiet"
								aria-label="Expect a value of a line"
								value=""
								onchange={(event) => {
									if (event.currentTarget.value) set(path, more(params, event.currentTarget.value));
									event.currentTarget.value = '';
								}}
							>
								<option value="">expect one of a line</option>
								{#each lines.filter((line) => !params.some((param) => param.name === line)) as line (line)}<option
										value={line}>{line}</option
									>{/each}
							</select>
						{/if}
						<button class="word soft" aria-label={about} onclick={() => set(path, more(params))}>add one</button>
					</Setting>
				{/each}
			</div>
		</div>
		<button class="word soft mt-1" onclick={() => document.set(['vector'], undefined, 'removing the test vector')}
			>remove the test vector</button
		>
	{/if}
</section>
