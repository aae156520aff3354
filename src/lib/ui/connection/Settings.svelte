<script lang="ts">
	import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS } from '#core/documents/connection.ts';
	import { writeJson, isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import type { Path } from '#core/model/path.ts';
	import { HTTP_VERSIONS, TLS_VERSIONS } from '#core/model/transport.ts';
	import { showDuration } from '#core/model/units.ts';
	import { SOURCE_FILE } from '#core/soap/index.ts';
	import X from '@lucide/svelte/icons/x';
	import type { DocumentState } from '../common/document.svelte.ts';
	import FileField from '../common/FileField.svelte';
	import Namespaces from '../common/Namespaces.svelte';
	import CodeField from '../editor/CodeField.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import ParamRows from '../ledger/ParamRows.svelte';
	import { layersOf, settingIn, withSetting } from './layer.ts';
	import Setting from './Setting.svelte';

	let { document, name }: { document: DocumentState; name: string } = $props();
	const project = useProject();
	/** Where changes go: everywhere, or to one environment. */
	let layer = $state('');
	const differing = $derived(layersOf(document.value));
	const layers = $derived(['', ...project().overview.environments.map((one) => one.name)]);

	const at = (...path: Path) => settingIn(document.value, layer, path);
	const own = (...path: Path): string => plain(at(...path).own);
	/** What holds without a value in this layer. */
	const without = (fallback: string, ...path: Path): string => plain(at(...path).inherited) || fallback;
	const plain = (value: Json | undefined): string =>
		value === undefined || value === null ? '' : typeof value === 'object' ? writeJson(value) : String(value);
	const holds = (...path: Path): Json | undefined => at(...path).own ?? at(...path).inherited;
	const set = (path: Path, value: Json | undefined) =>
		document.replace(
			withSetting(document.value, layer, path, value === '' ? undefined : value),
			`the ${path.join(' ')}`,
			`${layer} ${path.join('/')}`
		);

	// redirects and proxy have a short form: a number, an address
	const longRedirects = (value: Json | undefined): JsonObject =>
		isObject(value) ? (value as JsonObject) : value === undefined ? {} : { follow: value };
	const redirects = $derived(longRedirects(at('redirects').own));
	const redirectsWithout = $derived(longRedirects(at('redirects').inherited));
	function setRedirects(key: string, value: Json | undefined) {
		const next = { ...redirects, [key]: value };
		for (const [name, item] of Object.entries(next)) if (item === undefined) delete next[name];
		const keys = Object.keys(next);
		set(
			['redirects'],
			keys.length === 0 ? undefined : keys.length === 1 && 'follow' in next ? next.follow : (next as JsonObject)
		);
	}
	const longProxy = (value: Json | undefined): JsonObject =>
		isObject(value) ? (value as JsonObject) : value === undefined || value === '' ? {} : { address: value };
	const proxy = $derived(longProxy(at('proxy').own));
	const proxyWithout = $derived(longProxy(at('proxy').inherited));
	function setProxy(key: string, value: Json | undefined) {
		const next = { ...proxy, [key]: value };
		for (const [name, item] of Object.entries(next)) if (item === undefined || item === '') delete next[name];
		const keys = Object.keys(next);
		set(
			['proxy'],
			keys.length === 0 ? undefined : keys.length === 1 && 'address' in next ? next.address : (next as JsonObject)
		);
	}
	const list = (value: Json | undefined): string[] => (Array.isArray(value) ? value.map(String) : []);
	const authorities = $derived(list(holds('tls', 'authorities')));
	const setAuthorities = (next: string[]) => set(['tls', 'authorities'], next.length > 0 ? next : undefined);
	let asked = $state({ client: false, proxy: false, authority: false });
	const client = $derived(isObject(holds('tls', 'client')) ? (holds('tls', 'client') as JsonObject) : undefined);
	const byPair = $derived(client !== undefined && ('certificate' in client || 'key' in client));
	let pair = $state(false);
	const parts = $derived(byPair || pair ? ['certificate', 'key', 'passphrase'] : ['pkcs12', 'passphrase']);
	const viaProxy = $derived(Object.keys(proxy).length + Object.keys(proxyWithout).length > 0);
	const unverified = $derived(holds('tls', 'verify') === false);
	const credential = $derived(own('credential'));
	const kinds = $derived(project().overview.credentials);
	const definition = $derived(own('definition'));
	/** Files that may be an OpenAPI document, as the connection names them. */
	const documents = $derived(
		project()
			.overview.files.filter(
				(path) => /^definitions\/.*\.(json|ya?ml)$/i.test(path) && !path.endsWith(`/${SOURCE_FILE}`)
			)
			.map((path) => path.replace('definitions/', ''))
	);
	const signing = $derived(kinds.find((one) => one.name === plain(holds('credential'))));
	const problems = $derived(document.problems);
	const words = [
		['connect', 'connect'],
		['reply', 'reply'],
		['whole', 'whole']
	] as const;
	const PEM = /\.(pem|crt|cer|key)$/i;
	const SECRET = '{$secret.NAME}';
	const P12 = /\.(p12|pfx)$/i;
</script>

<section aria-label="Settings of {name}">
	<div class="flex items-center gap-2 pb-1 text-xs text-quiet">
		<span class="switch" role="group" aria-label="Where settings hold">
			{#each layers as one (one)}<button aria-pressed={layer === one} onclick={() => (layer = one)}
					>{one || 'everywhere'}{differing.includes(one) ? ' *' : ''}</button
				>{/each}
		</span>
		{#if layer && differing.includes(layer)}<button class="word soft" onclick={() => set([], undefined)}
				>nothing differs in {layer}</button
			>{:else if differing.length > 0}* differs there{/if}
	</div>
	{#if layer}<p class="pb-1 text-[13px]">
			What is written here holds in <b>{layer}</b> only; what is left out holds as everywhere.
		</p>{/if}

	<h2 class="label pt-1">Where</h2>
	<Setting label="Base address">
		<CodeField
			value={own('base')}
			label="Base address"
			placeholder={without('https://host/v1', 'base')}
			onchange={(value) => set(['base'], value)}
		/>
	</Setting>
	{#each [['headers', 'header', 'Headers'], ['query', 'query', 'Query']] as const as [key, word, label] (key)}
		<Setting {label}>
			<table class="w-full table-fixed border-collapse [&_td:first-child]:hidden" aria-label="{label} of every call">
				<tbody
					><ParamRows
						{word}
						params={parseParams(at(key).own)}
						onchange={(params) => set([key], params.length ? writeParams(params) : undefined)}
					/></tbody
				>
			</table>
			<button
				class="word soft"
				onclick={() => set([key], writeParams([...parseParams(at(key).own), { name: '', value: '', off: false }]))}
				>add {word === 'header' ? 'a header' : 'a parameter'}</button
			>
		</Setting>
	{/each}

	<h2 class="label pt-3">Credential</h2>
	<Setting label="Signs in as">
		<span class="flex items-baseline gap-2">
			<select
				class="bare data field-sizing-content min-w-0 cursor-pointer"
				aria-label="Credential of the connection"
				value={credential}
				onchange={(event) => set(['credential'], event.currentTarget.value)}
			>
				<option value="">{layer ? without('nobody', 'credential') : 'nobody'}</option>
				{#if layer}<option value="none">nobody, here</option>{/if}
				{#each kinds as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
				{#if credential && credential !== 'none' && !kinds.some((one) => one.name === credential)}<option
						value={credential}>{credential}, which is not there</option
					>{/if}
			</select>
			{#if signing}<span class="text-[13px] whitespace-nowrap text-quiet">{signing.label}</span><a
					class="word ml-auto whitespace-nowrap"
					href="/{project().name}/credentials/{signing.name}">open it</a
				>{/if}
		</span>
	</Setting>

	{#if documents.length > 1 || definition}
		<h2 class="label pt-3">Definition</h2>
		<Setting label="Held against">
			<select
				class="bare data field-sizing-content min-w-0 cursor-pointer"
				aria-label="Definition of the connection"
				value={definition}
				onchange={(event) => set(['definition'], event.currentTarget.value)}
			>
				<option value="">{without('whichever knows the call', 'definition')}</option>
				{#each documents as one (one)}<option value={one}>{one}</option>{/each}
				{#if definition && !documents.includes(definition)}<option value={definition}
						>{definition}, which is not there</option
					>{/if}
			</select>
		</Setting>
	{/if}

	<h2 class="label pt-3">Transport</h2>
	{#if unverified}<p class="note my-1" role="note">
			The other side’s certificate is not looked at{layer ? ` in ${layer}` : ''}: anybody in between can read and change
			what is sent. <button class="word" onclick={() => set(['tls', 'verify'], undefined)}>look at it again</button>
		</p>{/if}
	<Setting label="TLS">
		<span class="data flex items-baseline gap-1.5">
			{#each ['min', 'max'] as const as end, index (end)}{#if index === 1}<span class="text-quiet">to</span>{/if}<select
					class="bare cursor-pointer"
					aria-label={end === 'min' ? 'Lowest TLS version' : 'Highest TLS version'}
					value={own('tls', end) === '1' ? '1.0' : own('tls', end)}
					onchange={(event) => set(['tls', end], event.currentTarget.value)}
				>
					<option value="">{without(end === 'min' ? '1.2' : '1.3', 'tls', end)}</option>
					{#each TLS_VERSIONS as version (version)}<option value={version}>{version}</option>{/each}
				</select>{/each}
		</span>
	</Setting>
	<Setting label="Trusted">
		<span class="text-[13px]">this machine’s authorities{authorities.length > 0 ? ', and' : ''}</span>
		{#each authorities as authority, index (index)}
			<span class="flex items-center gap-2"
				><span class="min-w-0 flex-1"
					><FileField
						label="Authority {index + 1}"
						value={authority}
						fits={PEM}
						onchange={(path) =>
							setAuthorities(
								path
									? authorities.map((one, i) => (i === index ? path : one))
									: authorities.filter((_, i) => i !== index)
							)}
					/></span
				><button
					class="p-[5px] text-quiet hover:text-fail"
					aria-label="Trust authority {index + 1} no longer"
					onclick={() => setAuthorities(authorities.filter((_, i) => i !== index))}><X size={14} /></button
				></span
			>
		{/each}
		<div class="min-h-6 pt-1.5">
			{#if asked.authority}<FileField
					label="Another authority"
					value=""
					fits={PEM}
					placeholder="files/authority.pem"
					onchange={(path) => {
						if (path) setAuthorities([...authorities, path]);
						asked.authority = false;
					}}
				/>{:else}<button class="word soft" onclick={() => (asked.authority = true)}>add one</button>{/if}
		</div>
		<label class="flex min-h-6 items-center gap-1.5 text-[13px]"
			><input
				type="checkbox"
				class="checkbox h-3.5 w-3.5"
				checked={!unverified}
				onchange={(event) => set(['tls', 'verify'], event.currentTarget.checked ? (layer ? true : undefined) : false)}
			/> the certificate is looked at</label
		>
	</Setting>
	<Setting label="Asked name" title="The name that is asked for in TLS (SNI), which the certificate must hold">
		<input
			class="bare data w-full"
			aria-label="Name that the certificate must bear"
			placeholder={without('the host’s', 'tls', 'name')}
			value={own('tls', 'name')}
			onchange={(event) => set(['tls', 'name'], event.currentTarget.value.trim())}
		/>
	</Setting>
	<Setting label="Own certificate">
		{#if client || asked.client}
			<span class="switch" role="group" aria-label="Form of the own certificate">
				<button aria-pressed={byPair || pair} onclick={() => (pair = true)}>PEM pair</button>
				<button aria-pressed={!(byPair || pair)} disabled={byPair} onclick={() => (pair = false)}>PKCS#12</button>
			</span>
			{#each parts as part (part)}
				<span class="grid grid-cols-[76px_1fr] items-baseline gap-1">
					<span class="text-xs text-quiet">{part}</span>
					{#if part === 'passphrase'}<CodeField
							value={own('tls', 'client', part)}
							label="Passphrase of the own certificate"
							placeholder={SECRET}
							onchange={(value) => set(['tls', 'client', part], value)}
						/>{:else}<FileField
							label="{part} of the own certificate"
							value={own('tls', 'client', part)}
							fits={part === 'pkcs12' ? P12 : PEM}
							placeholder={without('', 'tls', 'client', part)}
							onchange={(value) => set(['tls', 'client', part], value)}
						/>{/if}
				</span>
			{/each}
			<button
				class="word soft"
				onclick={() => {
					set(['tls', 'client'], undefined);
					asked.client = false;
					pair = false;
				}}>show none</button
			>
		{:else}<span class="text-[13px] text-quiet">none</span>
			<button class="word soft ml-1" onclick={() => (asked.client = true)}>add one</button>{/if}
	</Setting>
	<Setting label="Proxy">
		{#if viaProxy || asked.proxy}
			{#each [['address', 'http://host:port'], ['user', ''], ['password', '{$secret.NAME}']] as const as [part, example] (part)}
				<span class="grid grid-cols-[76px_1fr] items-baseline gap-1">
					<span class="text-xs text-quiet">{part}</span><CodeField
						value={plain(proxy[part])}
						label="Proxy {part}"
						placeholder={plain(proxyWithout[part]) || example}
						onchange={(value) => setProxy(part, value)}
					/>
				</span>
			{/each}
			<span class="grid grid-cols-[76px_1fr] items-baseline gap-1">
				<span class="text-xs text-quiet">not for</span><input
					class="bare data min-h-6 w-full"
					aria-label="Hosts that are reached without the proxy"
					placeholder={list(proxyWithout.except).join(' ') || 'localhost .reedmere.example'}
					value={list(proxy.except).join(' ')}
					onchange={(event) => {
						const names = event.currentTarget.value.split(/[\s,]+/).filter(Boolean);
						setProxy('except', names.length > 0 ? names : undefined);
					}}
				/>
			</span>
			<button
				class="word soft"
				onclick={() => {
					set(['proxy'], undefined);
					asked.proxy = false;
				}}>go directly</button
			>
		{:else}<span class="text-[13px] text-quiet">none, directly</span>
			<button class="word soft ml-1" onclick={() => (asked.proxy = true)}>add one</button>{/if}
	</Setting>
	<Setting label="HTTP">
		<select
			class="bare data field-sizing-content cursor-pointer"
			aria-label="Version of HTTP"
			value={own('http')}
			onchange={(event) => set(['http'], event.currentTarget.value)}
		>
			<option value="">{without('1.1', 'http')}</option>
			{#each HTTP_VERSIONS as version (version)}<option value={version}
					>{version === 'auto' ? 'auto: 2 where it is offered' : version}</option
				>{/each}
		</select>
	</Setting>
	<Setting label="Cookies">
		<label class="flex min-h-6 items-center gap-1.5 text-[13px]"
			><input
				type="checkbox"
				class="checkbox h-3.5 w-3.5"
				checked={holds('cookies') !== false}
				onchange={(event) => set(['cookies'], event.currentTarget.checked ? (layer ? true : undefined) : false)}
			/> are sent again in the same scenario</label
		>
	</Setting>
	<Setting label="Time limits">
		<span class="flex flex-wrap gap-x-3">
			{#each words as [key, word] (key)}<label class="flex items-baseline gap-1 text-xs text-quiet"
					>{word}<input
						class="bare data w-14 text-ink"
						aria-label="Time limit: {word}"
						placeholder={without(showDuration(DEFAULT_TIMEOUTS[key]), 'timeouts', key)}
						value={own('timeouts', key)}
						onchange={(event) => set(['timeouts', key], event.currentTarget.value.trim())}
					/></label
				>{/each}
		</span>
	</Setting>
	<Setting label="Redirects">
		<span class="flex items-baseline gap-1.5 text-[13px]"
			>up to <input
				class="bare data w-10"
				type="number"
				min="0"
				max="50"
				aria-label="Redirects"
				placeholder={plain(redirectsWithout.follow) || String(DEFAULT_REDIRECTS.follow)}
				value={plain(redirects.follow)}
				onchange={(event) =>
					setRedirects('follow', event.currentTarget.value === '' ? undefined : Number(event.currentTarget.value))}
			/></span
		>
		{#each [['keepMethod', 'keep the method and body'], ['keepCredentials', 'show credentials to other hosts too']] as const as [key, text] (key)}
			<label class="flex min-h-6 items-center gap-1.5 text-[13px]"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					checked={(redirects[key] ?? redirectsWithout[key]) === true}
					onchange={(event) => setRedirects(key, event.currentTarget.checked ? true : layer ? false : undefined)}
				/>
				{text}</label
			>
		{/each}
	</Setting>
	{#if !layer}
		<h2 class="label pt-3">XML</h2>
		<Setting
			label="Prefixes"
			title="Namespaces by the prefix that XPaths of its replies use; a name without a prefix is found in any"
		>
			<Namespaces value={at('namespaces').own} onchange={(value) => set(['namespaces'], value)} />
		</Setting>
	{/if}
	{#if problems.length > 0}<ul class="pt-2" aria-label="Problems">
			{#each problems as problem, index (index)}<li class="text-[13px] text-fail">
					{problem.path.join('.')}{problem.path.length > 0 ? ': ' : ''}{problem.message}
				</li>{/each}
		</ul>{/if}
</section>
