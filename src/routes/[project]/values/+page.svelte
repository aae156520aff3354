<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import Lock from '@lucide/svelte/icons/lock';
	import { api, messageOf } from '#ui/common/api.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import SaveState from '#ui/common/SaveState.svelte';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { useProject } from '#ui/frame/project.svelte.ts';
	import SecretDialog from '#ui/values/SecretDialog.svelte';
	import { Secrets, stateOf } from '#ui/values/secrets.svelte.ts';
	import { untrack } from 'svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const columns = $derived(
		data.documents.map(({ name, path, stored }) => {
			const document = new DocumentState(data.project, path, stored);
			document.onSaved = () => {
				void project().resolve();
				loadSecrets();
			};
			return { name, document };
		})
	);
	const exampleValue = '{$env.host}/v1';
	let last: DocumentState | undefined = $state.raw();
	const variablesOf = (document: DocumentState): JsonObject => {
		const value = document.value as JsonObject | null;
		return isObject(value?.variables) ? (value.variables as JsonObject) : {};
	};
	const secretsOf = (document: DocumentState): string[] => {
		const value = document.value as JsonObject | null;
		return Array.isArray(value?.secrets) ? value.secrets.map(String) : [];
	};
	const names = $derived([...new Set(columns.flatMap(({ document }) => Object.keys(variablesOf(document))))].sort());
	const secrets = $derived(new Secrets(data.project));
	const loadSecrets = () => void secrets.load().catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
	$effect(() => {
		void project().overview;
		void secrets;
		untrack(loadSecrets);
	});
	let chosen: { name: string; environment: string } | undefined = $state();
	const words = {
		kept: 'in the vault',
		shut: 'sealed with another key',
		all: 'as everywhere',
		process: 'from the server’s variable',
		missing: 'not set',
		unused: '–'
	};
	let fresh = $state('');
	let freshSecret = $state('');
	let freshEnvironment = $state('');

	const show = (value: Json | undefined) =>
		value === undefined
			? ''
			: typeof value === 'string'
				? typeof read(value) === 'string'
					? value
					: JSON.stringify(value)
				: JSON.stringify(value);
	/** Numbers, true, false, null, lists and objects keep their type; a text in quotes stays text. */
	function read(text: string): Json {
		if (/^\s*([[{"]|-?(0|[1-9]\d{0,14})(\.\d+)?$|true$|false$|null$)/.test(text) && !text.startsWith('{$')) {
			try {
				return JSON.parse(text) as Json;
			} catch {
				return text;
			}
		}
		return text;
	}
	function set(document: DocumentState, name: string, text: string) {
		document.set(['variables', name], text === '' ? undefined : read(text), `the value of ${name}`);
		last = document;
	}
	function addVariable(event: SubmitEvent) {
		event.preventDefault();
		const name = fresh.trim();
		if (!/^[A-Za-z_]\w*$/.test(name))
			return toasts.show(`“${name}” cannot be a name: letters, digits and _ can.`, 'trouble');
		if (names.includes(name)) return toasts.show(`${name} is there already.`);
		const home = columns.find((column) => column.name === project().environment) ?? columns[0]!;
		home.document.set(['variables', name], '', `adding ${name}`);
		last = home.document;
		fresh = '';
		setTimeout(() => document.getElementById(`cell-${name}-${home.name}`)?.focus());
	}
	function addSecret(event: SubmitEvent) {
		event.preventDefault();
		const name = freshSecret.trim();
		if (!/^[A-Za-z_]\w*$/.test(name))
			return toasts.show(`“${name}” cannot be a name: letters, digits and _ can.`, 'trouble');
		for (const { name: environment, document } of columns) {
			if (environment === project().environment && !secretsOf(document).includes(name))
				document.set(['secrets'], [...secretsOf(document), name], `naming ${name}`);
		}
		freshSecret = '';
		chosen = { name, environment: project().environment };
	}
	async function addEnvironment(event: SubmitEvent) {
		event.preventDefault();
		const name = freshEnvironment.trim().toLowerCase();
		const source = columns.find((column) => column.name === project().environment);
		const copy = source ? { ...(source.document.value as JsonObject) } : { heron: 1 };
		try {
			if (!/^[a-z0-9][\w-]*$/.test(name))
				throw new Error(`“${name}” cannot be a name: small letters, digits and - can.`);
			await api.put(`/projects/${data.project}/files/environments/${name}.yaml`, {
				value: { ...copy, title: name.charAt(0).toUpperCase() + name.slice(1) },
				revision: 0
			});
			freshEnvironment = '';
			await project().reload();
			await invalidateAll();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	function move(event: KeyboardEvent, row: number, column: number) {
		const way: Record<string, [number, number]> = { ArrowDown: [1, 0], ArrowUp: [-1, 0], Enter: [1, 0] };
		const step = way[event.key];
		if (!step) return;
		const name = names[row + step[0]];
		const target = document.getElementById(`cell-${name}-${columns[column]?.name}`);
		if (target) {
			event.preventDefault();
			target.focus();
		}
	}
	function keys(event: KeyboardEvent) {
		if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || !last) return;
		event.preventDefault();
		if (event.shiftKey) last.redo();
		else last.undo();
	}
</script>

<svelte:window
	onkeydown={keys}
	onbeforeunload={(event) => columns.some(({ document }) => document.status !== 'saved') && event.preventDefault()}
/>
<svelte:head><title>Values · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="flex items-baseline gap-4 border-b-2 border-ink pb-2.5">
		<h1>Values</h1>
		<span class="text-quiet">variables down, environments across; an environment’s value wins over the project’s</span>
		{#if last}<SaveState document={last} />{/if}
		<form class="ml-auto flex items-center gap-2" onsubmit={addEnvironment}>
			<input
				class="field w-40"
				placeholder="name"
				aria-label="Name of a new environment"
				bind:value={freshEnvironment}
			/>
			<button class="press" disabled={!freshEnvironment.trim()}>Copy {project().environment} as new</button>
		</form>
	</div>
	<table class="sheet-table mt-1 table-fixed">
		<thead>
			<tr>
				<th class="w-48">variable</th>
				{#each columns as { name, document } (name)}<th
						class={name === project().environment ? 'font-bold! text-ink' : ''}
						>{name || 'project'}{name === project().environment ? ', chosen' : ''}{#if document.problems.length}<span
								class="ml-2 text-fail">{document.problems[0]!.message}</span
							>{/if}</th
					>{/each}
			</tr>
		</thead>
		<tbody>
			{#each names as variable, row (variable)}
				<tr id={variable}>
					<th scope="row" class="data border-line! text-[13px]! text-ink!">{variable}</th>
					{#each columns as { name, document }, column (name)}
						{@const value = variablesOf(document)[variable]}
						{@const inherited = name === '' ? undefined : variablesOf(columns[0]!.document)[variable]}
						{@const gap = name !== '' && value === undefined && inherited === undefined}
						<td class="py-0.5!"
							><input
								id="cell-{variable}-{name}"
								class="bare data w-full"
								style={gap ? 'background: var(--fail-wash)' : ''}
								class:text-err={value !== undefined && typeof value !== 'string'}
								aria-label="{variable} in {name || 'the project'}"
								placeholder={gap ? 'gap' : show(inherited)}
								value={show(value)}
								onchange={(event) => set(document, variable, event.currentTarget.value)}
								onkeydown={(event) => move(event, row, column)}
							/></td
						>
					{/each}
				</tr>
			{/each}
			{#each secrets.list as secret (secret.name)}
				<tr>
					<th scope="row" class="data border-line! text-[13px]! text-ink!" title={secret.variable}
						><Lock size={12} class="mr-1 inline align-[-1px]" aria-label="secret" />{secret.name}</th
					>
					{#each columns as { name } (name)}
						{@const state = stateOf(secret, name)}
						<td class="py-0.5! text-[13px]">
							<button
								class="w-full py-0.5 text-left hover:underline {state === 'missing' || state === 'shut'
									? 'font-semibold text-fail'
									: state === 'kept' || state === 'all' || state === 'process'
										? 'text-pass'
										: 'text-quiet'}"
								aria-label="Secret {secret.name} in {name || 'every environment'}: {state === 'unused'
									? 'not set'
									: words[state]}"
								onclick={() => (chosen = { name: secret.name, environment: name })}>{words[state]}</button
							>
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
	</table>
	{#if names.length === 0}<p class="py-4 text-quiet">
			No variable yet. Name the base address first, then each environment has its own.
		</p>{/if}
	<div class="flex gap-6 py-3">
		<form class="flex items-center gap-2" onsubmit={addVariable}>
			<input class="field w-48" placeholder="name" aria-label="Name of a new variable" bind:value={fresh} /><button
				class="press"
				disabled={!fresh.trim()}>Add a variable</button
			>
		</form>
		<form class="flex items-center gap-2" onsubmit={addSecret}>
			<input class="field w-48" placeholder="name" aria-label="Name of a new secret" bind:value={freshSecret} /><button
				class="press"
				disabled={!freshSecret.trim() || !project().environment}>Name a secret of {project().environment}</button
			>
		</form>
	</div>
	<p class="max-w-3xl pb-6 text-[13px] text-quiet">
		Values of secrets are never in a file: they lie encrypted in the vault of this server, and the vault wins over
		variables such as <span class="data">HERON_SECRET_CLERK_PASSWORD</span> of its process. The command takes them from
		such variables, or from <span class="data">--secrets FILE</span>. A value may use others:
		<span class="data">{exampleValue}</span>.
	</p>
</div>
{#if chosen}<SecretDialog
		{secrets}
		{chosen}
		onclose={() => (chosen = undefined)}
		onchange={() => {
			void project().resolve();
			for (const { document } of columns) void document.refresh();
		}}
	/>{/if}
