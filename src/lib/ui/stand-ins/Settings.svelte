<script lang="ts">
	import { isObject, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
	import { faultWords, parseFault } from '#core/stand-in/faults/index.ts';
	import X from '@lucide/svelte/icons/x';
	import { api, messageOf } from '../common/api.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import { freeName } from '../common/edit.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import Setting from '../connection/Setting.svelte';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import WsSecurity from './WsSecurity.svelte';

	/** Where it listens, what it stands for, what it remembers, and what can go wrong on purpose. */
	let {
		document,
		definitions,
		datasets,
		name,
		project
	}: {
		document: DocumentState;
		definitions: string[];
		datasets: string[];
		/** Its own. */
		name: string;
		project: ProjectState;
	} = $props();
	/** Connections that it answers for in the chosen environment. */
	const stoodIn = $derived(project.stoodIn.filter(([, by]) => by === name).map(([connection]) => connection));
	const free = $derived(
		project.overview.connections
			.map((one) => one.name)
			.filter((one) => !project.stoodIn.some(([known]) => known === one))
	);
	async function standFor(connection: string, on: boolean) {
		const url = `/projects/${project.name}/files/environments/${project.environment}.yaml`;
		try {
			const { revision, value } = await api.get<{ revision: number; value: Json }>(url);
			const { standIns, ...rest } = own(value);
			const { [connection]: _, ...others } = own(standIns);
			const next = on ? { ...others, [connection]: name } : others;
			const whole = Object.keys(next).length > 0 ? { ...rest, standIns: next } : rest;
			await api.put(url, { value: whole, revision });
			await project.reload();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const raw = $derived(document.value as JsonObject);
	const stores = $derived(Object.entries(isObject(raw.stores) ? (raw.stores as JsonObject) : {}));
	const faults = $derived(Object.entries(isObject(raw.faults) ? (raw.faults as JsonObject) : {}));
	const set = (path: string[], value: Json | undefined, label?: string) => document.set(path, value, label);
	const own = (value: Json | undefined): JsonObject => (isObject(value) ? (value as JsonObject) : {});
	const tls = $derived(
		raw.tls === true ? 'on' : isObject(raw.tls) ? (raw.tls.client === true ? 'client' : 'on') : 'off'
	);
	const rest = $derived(raw.otherwise === 'definition' ? 'definition' : isObject(raw.otherwise) ? 'forward' : '');

	function renamed(place: 'stores' | 'faults', from: string, to: string) {
		const all = own(raw[place]);
		if (!to || Object.hasOwn(all, to)) return;
		set([place], Object.fromEntries(Object.entries(all).map(([key, value]) => [key === from ? to : key, value])));
	}
	function drop(place: 'stores' | 'faults', name: string) {
		const left = Object.fromEntries(Object.entries(own(raw[place])).filter(([key]) => key !== name));
		set([place], Object.keys(left).length > 0 ? left : undefined, `removing ${name}`);
	}
	const addStore = () =>
		set(
			[
				'stores',
				freeName(
					'things',
					stores.map(([name]) => name)
				).replace(/-/g, '_')
			],
			{ key: 'id' },
			'adding a store'
		);
	const FAULTS: [string, JsonObject][] = [
		['slow', { delay: '500 ms to 2 s' }],
		['unavailable', { status: 503, rate: 20 }],
		['reset', { reset: true }],
		['half', { half: true }],
		['malformed', { malformed: true }],
		['silent', { silent: true }],
		['drops', { drip: '5 s' }],
		['busy', { limit: '10 per 1 s' }],
		['mistyped', { type: 'text/html' }],
		['refused', { refuse: true }]
	];
	let timing = $state(false);
	function takeTimes(wanted: string, times: string[]) {
		const fault = freeName(
			wanted,
			faults.map(([known]) => known)
		).replace(/-/g, '_');
		set(['faults', fault], { delay: times }, `adding the fault ${fault}`);
		timing = false;
	}
	const open = $derived(FAULTS.filter(([name]) => !faults.some(([known]) => known === name)));
	/** A list is too long for a line: it is changed as text. */
	const hasList = (value: Json | undefined) =>
		isObject(value) && Object.values(value).some((one) => Array.isArray(one));
	/** A fault as its kinds and values, one line. */
	const faultText = (value: Json) =>
		isObject(value)
			? Object.entries(value as JsonObject)
					.map(([key, one]) => `${key}: ${typeof one === 'string' ? one : writeJson(one!)}`)
					.join(', ')
			: writeJson(value);
	function readFault(text: string): Json {
		const out: JsonObject = {};
		for (const part of text.split(/,(?![^[]*\])/)) {
			const at = part.indexOf(':');
			if (at < 0) continue;
			const given = part.slice(at + 1).trim();
			let value: Json = given;
			if (/^(\d+(\.\d+)?|true|false|\[.*\])$/.test(given))
				try {
					value = JSON.parse(given) as Json;
				} catch {
					// it stays the text that it is
				}
			out[part.slice(0, at).trim()] = value;
		}
		return out;
	}
</script>

<div class="grid grid-cols-1 gap-x-8 border-b border-line bg-sheet px-3.5 pt-1 pb-3 lg:grid-cols-2" id="settings">
	<section aria-label="Where it listens">
		{#if project.environment}<Setting label="Stands in"
				><span class="flex flex-wrap items-baseline gap-x-3"
					>{#each stoodIn as connection (connection)}<span
							>for <span class="data">{connection}</span>
							<button
								class="p-[5px] align-middle text-quiet hover:text-fail"
								aria-label="No longer for {connection}"
								onclick={() => standFor(connection, false)}><X size={14} /></button
							></span
						>{/each}
					<select
						class="bare field-sizing-content cursor-pointer text-quiet"
						aria-label="Stand in for a connection in {project.environment}"
						value=""
						onchange={(event) => {
							void standFor(event.currentTarget.value, true);
							event.currentTarget.value = '';
						}}
					>
						<option value="">for {stoodIn.length > 0 ? 'another' : 'no'} connection in {project.environment}</option>
						{#each free as connection (connection)}<option>{connection}</option>{/each}
					</select></span
				></Setting
			>{/if}
		<Setting label="Port"
			><input
				class="bare data w-24"
				inputmode="numeric"
				aria-label="Port"
				placeholder="any"
				value={raw.port === undefined ? '' : String(raw.port as number)}
				onchange={(event) => {
					const given = event.currentTarget.value.trim();
					set(['port'], given === '' ? undefined : /^\d+$/.test(given) ? Number(given) : given);
				}}
			/></Setting
		>
		<Setting label="Base path"
			><input
				class="bare data w-full"
				aria-label="Base path"
				placeholder="none"
				value={String(raw.base ?? '')}
				onchange={(event) => set(['base'], event.currentTarget.value.trim() || undefined)}
			/></Setting
		>
		<Setting label="TLS"
			><select
				class="bare field-sizing-content cursor-pointer"
				aria-label="TLS"
				value={tls}
				onchange={(event) => {
					const word = event.currentTarget.value;
					set(['tls'], word === 'off' ? undefined : word === 'on' ? true : { client: true });
				}}
			>
				<option value="off">none</option>
				<option value="on">with a certificate made for it</option>
				<option value="client">and a client certificate asked for</option>
			</select></Setting
		>
		<Setting label="Definition"
			><select
				class="bare data field-sizing-content cursor-pointer"
				aria-label="Definition"
				value={String(raw.definition ?? '')}
				onchange={(event) => set(['definition'], event.currentTarget.value || undefined)}
			>
				<option value="">none</option>
				{#if raw.definition && !definitions.includes(String(raw.definition as string))}<option
						>{String(raw.definition as string)}</option
					>{/if}
				{#each definitions as file (file)}<option>{file}</option>{/each}
			</select></Setting
		>
		<Setting label="All else"
			><span class="flex items-baseline gap-2"
				><select
					class="bare field-sizing-content cursor-pointer"
					aria-label="What becomes of a request that no answer fits"
					value={rest}
					onchange={(event) => {
						const word = event.currentTarget.value;
						set(
							['otherwise'],
							word === '' ? undefined : word === 'definition' ? 'definition' : { forward: 'http://127.0.0.1:8080' }
						);
					}}
				>
					<option value="">is told that no answer fits</option>
					<option value="definition" disabled={!raw.definition}>is answered by the definition</option>
					<option value="forward">is passed on to</option>
				</select>
				{#if rest === 'forward'}<input
						class="bare data min-w-0 flex-1"
						aria-label="Address that the rest is passed on to"
						value={String(own(raw.otherwise).forward ?? '')}
						onchange={(event) => set(['otherwise', 'forward'], event.currentTarget.value.trim())}
					/>{/if}</span
			></Setting
		>
		<Setting label="Other origins"
			><select
				class="bare field-sizing-content cursor-pointer"
				aria-label="Whether pages of other origins may read it"
				value={raw.cors === undefined || raw.cors === false ? '' : Array.isArray(raw.cors) ? 'some' : 'all'}
				onchange={(event) => {
					const word = event.currentTarget.value;
					set(['cors'], word === '' ? undefined : word === 'all' ? true : ['http://localhost:3000']);
				}}
			>
				<option value="">may not read it from a page</option>
				<option value="all">may read it from a page (CORS)</option>
				<option value="some">may, of those that are listed</option>
			</select>
			{#if Array.isArray(raw.cors)}<input
					class="bare data w-full"
					aria-label="Origins whose pages may read it"
					value={raw.cors.join(' ')}
					onchange={(event) => set(['cors'], event.currentTarget.value.trim().split(/[\s,]+/))}
				/>{/if}</Setting
		>
		<Setting label="Begins anew"
			><select
				class="bare field-sizing-content cursor-pointer"
				aria-label="When it begins anew"
				value={String(raw.reset ?? '')}
				onchange={(event) => set(['reset'], event.currentTarget.value || undefined)}
			>
				<option value="">only when it is told to</option>
				<option value="run">with each run</option>
				<option value="scenario">with each scenario</option>
			</select></Setting
		>
		{#if /\.wsdl$/i.test(String(raw.definition ?? ''))}<WsSecurity {document} />{/if}
	</section>
	<div>
		<section aria-label="Stores" class="pt-1">
			<h3 class="label">Stores</h3>
			{#each stores as [name, value] (name)}
				{@const store = own(value)}
				<div class="flex flex-wrap items-baseline gap-x-2 border-b border-line py-1 text-[13px]">
					<input
						class="bare field-sizing-content font-semibold"
						aria-label="Name of the store {name}"
						value={name}
						onchange={(event) => renamed('stores', name, event.currentTarget.value.trim())}
					/>
					<label class="flex items-baseline gap-1.5"
						><span class="text-quiet">keyed by</span><input
							class="bare data field-sizing-content min-w-10"
							aria-label="Key of the store {name}"
							value={String(store.key ?? '')}
							onchange={(event) => set(['stores', name, 'key'], event.currentTarget.value.trim())}
						/></label
					>
					<label class="flex items-baseline gap-1.5"
						><span class="text-quiet">from</span>
						{#if Array.isArray(store.from)}<span>{store.from.length} written here</span>
						{:else}<select
								class="bare data field-sizing-content cursor-pointer"
								aria-label="What the store {name} holds at first"
								value={String(store.from ?? '')}
								onchange={(event) => set(['stores', name, 'from'], event.currentTarget.value || undefined)}
							>
								<option value="">empty</option>
								{#each datasets as file (file)}<option>{file}</option>{/each}
							</select>{/if}</label
					>
					<label class="flex items-baseline gap-1.5"
						><span class="text-quiet">seen after</span><input
							class="bare data w-16"
							aria-label="When what is added to {name} is seen"
							placeholder="at once"
							value={String(store.seenAfter ?? '')}
							onchange={(event) => set(['stores', name, 'seenAfter'], event.currentTarget.value.trim() || undefined)}
						/></label
					>
					<button
						class="ml-auto self-center p-[5px] text-quiet hover:text-fail"
						aria-label="Remove the store {name}"
						onclick={() => drop('stores', name)}><X size={14} /></button
					>
				</div>
			{:else}<p class="text-[13px] text-quiet">Nothing is remembered.</p>{/each}
			<button class="word soft mt-1" onclick={addStore}>add a store</button>
		</section>
		<section aria-label="Faults on purpose" class="pt-2">
			<h3 class="label">Faults on purpose</h3>
			{#each faults as [name, value] (name)}
				<div class="flex items-baseline gap-x-2 border-b border-line py-1 text-[13px]">
					<input
						class="bare field-sizing-content font-semibold"
						aria-label="Name of the fault {name}"
						value={name}
						onchange={(event) => renamed('faults', name, event.currentTarget.value.trim())}
					/>
					{#if hasList(value)}<span class="data min-w-0 flex-1" title={faultText(value!)}
							>{faultWords(parseFault(value))}</span
						>
					{:else}<input
							class="bare data min-w-0 flex-1"
							aria-label="What the fault {name} does"
							spellcheck="false"
							value={faultText(value!)}
							onchange={(event) => set(['faults', name], readFault(event.currentTarget.value))}
						/>{/if}
					<button
						class="self-center p-[5px] text-quiet hover:text-fail"
						aria-label="Remove the fault {name}"
						onclick={() => drop('faults', name)}><X size={14} /></button
					>
				</div>
			{/each}
			<p class="mt-1 flex flex-wrap items-baseline gap-x-3">
				<span class="text-[13px] text-quiet">add</span>
				{#each open as [name, value] (name)}<button
						class="word soft min-h-6"
						onclick={() => set(['faults', name], value, `adding the fault ${name}`)}>{name}</button
					>{/each}
				<button class="word soft min-h-6" aria-expanded={timing} onclick={() => (timing = !timing)}
					>as slow as a run</button
				>
			</p>
			{#if timing}{#await import('./TimesOfRun.svelte') then { default: TimesOfRun }}<TimesOfRun
						project={project.name}
						onadd={takeTimes}
						onclose={() => (timing = false)}
					/>{/await}{/if}
		</section>
	</div>
</div>
