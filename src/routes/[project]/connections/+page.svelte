<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import { DEFAULT_TIMEOUTS } from '#core/model/connection.ts';
	import { showDuration } from '#core/model/units.ts';
	import { show } from '#core/checks/index.ts';
	import { api, messageOf } from '#ui/common/api.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import { freeName } from '#ui/common/edit.ts';
	import SaveState from '#ui/common/SaveState.svelte';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import CodeField from '#ui/editor/CodeField.svelte';
	import { provideNames } from '#ui/editor/names.svelte.ts';
	import { useProject } from '#ui/frame/project.svelte.ts';
	import ParamRows from '#ui/ledger/ParamRows.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const list = $derived(
		data.documents.map(({ name, path, stored }) => {
			const document = new DocumentState(data.project, path, stored);
			document.onSaved = () => void project().reload();
			return { name, document };
		})
	);
	let opened = $state('');
	const open = $derived(opened || page.url.hash.slice(1) || list[0]?.name || '');
	let words = $state('');
	const shown = $derived(
		list.filter(({ name, document }) =>
			`${name} ${JSON.stringify(document.value)}`.toLowerCase().includes(words.toLowerCase())
		)
	);
	const field = (document: DocumentState, ...path: string[]): string => {
		let at: Json | undefined = document.value;
		for (const key of path) at = isObject(at) ? (at as JsonObject)[key] : undefined;
		return at === undefined || at === null ? '' : String(at);
	};
	const set = (document: DocumentState, path: string[], value: Json | undefined) =>
		document.set(path, value === '' ? undefined : value);
	const usedBy = (name: string) =>
		project().overview.collections.filter((collection) => collection.through.includes(name));
	provideNames(() => [
		...Object.entries(project().values).map(([name, value]) => ({ name: `env.${name}`, detail: show(value, 60) })),
		...project().secrets.map((name) => ({ name: `secret.${name}`, detail: 'a secret' }))
	]);

	async function add() {
		const name = freeName(
			'connection',
			list.map((one) => one.name)
		);
		try {
			await api.put(`/projects/${data.project}/files/connections/${name}.yaml`, {
				value: { heron: 1, title: 'New connection', base: 'http://127.0.0.1' },
				revision: 0
			});
			await project().reload();
			await invalidateAll();
			opened = name;
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function remove(name: string, document: DocumentState) {
		const value = document.value;
		try {
			await document.save();
			const { revision } = await api.get<{ revision: number }>(document.url);
			await api.remove(`${document.url}?revision=${revision}`);
			await project().reload();
			await invalidateAll();
			opened = '';
			toasts.show(`Connection “${name}” is deleted.`, 'note', {
				label: 'undo',
				run: () =>
					void api.put(document.url, { value, revision: 0 }).then(async () => {
						await project().reload();
						await invalidateAll();
						await goto(`#${name}`);
					})
			});
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<svelte:head><title>Connections · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="flex items-baseline gap-4 border-b-2 border-ink pb-2.5">
		<h1>Connections</h1>
		<span class="text-quiet">where calls go</span>
		<input
			class="field ml-auto w-56"
			placeholder="name, address"
			aria-label="Filter the connections"
			bind:value={words}
		/>
		<button class="press go" onclick={add}>New connection</button>
	</div>
	{#each shown as { name, document } (name)}
		<section class="border-b border-line" id={name} aria-label="Connection {name}">
			<button
				class="grid w-full grid-cols-[300px_140px_1fr_auto] items-baseline gap-3 py-2 text-left"
				aria-expanded={open === name}
				onclick={() => (opened = open === name ? '-' : name)}
			>
				<span class="truncate font-semibold">{field(document, 'title') || name}</span><span
					class="data truncate text-quiet">{name}</span
				><span class="data truncate">{field(document, 'base')}</span>
				<span class="text-[13px] text-quiet"
					>{usedBy(name).length
						? `used by ${usedBy(name)
								.map((c) => c.title)
								.join(', ')}`
						: 'nobody uses it'}</span
				>
			</button>
			{#if open === name}
				<div class="mb-3 max-w-3xl border border-l-[3px] border-rule border-l-ink bg-sheet px-4 py-3">
					<dl class="grid grid-cols-[130px_1fr] items-baseline gap-y-1.5">
						<dt class="text-quiet">title</dt>
						<dd>
							<input
								class="bare w-full"
								aria-label="Title"
								value={field(document, 'title')}
								oninput={(event) => set(document, ['title'], event.currentTarget.value)}
							/>
						</dd>
						<dt class="text-quiet">base address</dt>
						<dd>
							<CodeField
								value={field(document, 'base')}
								label="Base address"
								placeholder="https://host/v1"
								onchange={(value) => document.set(['base'], value)}
							/>
						</dd>
						<dt class="text-quiet">headers</dt>
						<dd>
							<table class="w-full table-fixed border-collapse" aria-label="Default headers">
								<tbody
									><ParamRows
										word="header"
										params={parseParams((document.value as JsonObject).headers)}
										onchange={(params) => document.set(['headers'], params.length ? writeParams(params) : undefined)}
									/></tbody
								>
							</table>
							<button
								class="word soft"
								onclick={() =>
									document.set(
										['headers'],
										writeParams([
											...parseParams((document.value as JsonObject).headers),
											{ name: '', value: '', off: false }
										])
									)}>add a header</button
							>
						</dd>
						{#each [['connect', 'until connected'], ['reply', 'until the answer'], ['whole', 'the whole']] as const as [key, words] (key)}
							<dt class="text-quiet">{words}</dt>
							<dd>
								<input
									class="bare data"
									aria-label="Time limit: {words}"
									placeholder={showDuration(DEFAULT_TIMEOUTS[key])}
									value={field(document, 'timeouts', key)}
									onchange={(event) => set(document, ['timeouts', key], event.currentTarget.value.trim())}
								/>
							</dd>
						{/each}
						<dt class="text-quiet">redirects</dt>
						<dd>
							<input
								class="bare data"
								type="number"
								min="0"
								max="50"
								aria-label="Redirects"
								placeholder="5"
								value={field(document, 'redirects')}
								onchange={(event) =>
									set(
										document,
										['redirects'],
										event.currentTarget.value === '' ? undefined : Number(event.currentTarget.value)
									)}
							/>
						</dd>
					</dl>
					{#each document.problems as problem, index (index)}<p class="mt-1 text-[13px] text-fail">
							{problem.path.join('.')}: {problem.message}
						</p>{/each}
					<p class="mt-2 flex items-baseline gap-4">
						<SaveState {document} /><button class="word soft ml-auto" onclick={() => remove(name, document)}
							>delete</button
						>
					</p>
				</div>
			{/if}
		</section>
	{:else}<p class="py-6 text-quiet">
			{words
				? `No connection fits “${words}”.`
				: 'No connection yet. It holds the base address that all paths are appended to.'}
		</p>{/each}
</div>
