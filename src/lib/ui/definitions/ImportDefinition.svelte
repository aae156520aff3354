<script lang="ts">
	import { onDestroy, untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { nameFrom, OTHER_HOST } from '#core/soap/index.ts';
	import { counted } from '#core/messages.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { freeName } from '#core/model/path.ts';
	import { base64ToBytes } from '#core/values/index.ts';
	import type { DefinitionList, ImportPlan, WrittenFile } from '$lib/wire.ts';
	import { api, fileUrl, messageOf } from '../common/api.ts';
	import { offerUndo } from '../common/undo.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import { listDefinitions, readAnew } from '../soap/definitions.svelte.ts';
	import Fixes from './Fixes.svelte';
	import Offers from './Offers.svelte';

	interface Given {
		files: { path: string; base64: string }[];
		address: string;
	}
	/** @property given what was chosen elsewhere already */
	let { project, given, onclose }: { project: ProjectState; given?: Given | undefined; onclose: () => void } = $props();

	let files: { path: string; base64: string }[] = $state.raw([]);
	let address = $state('');
	let name = $state('');
	/** Somebody chose the name; else it is the file's, and the service's title may give a better one. */
	let named = $state(false);
	let connection = $state('');
	let plan: ImportPlan | undefined = $state.raw();
	/** Keys of the scenarios that are made. */
	let chosen: string[] = $state.raw([]);
	/** Keys of the changes of steps that are made. */
	let chosenFixes: string[] = $state([]);
	let others = $state(false);
	let trouble = $state('');
	let busy = $state(false);
	/** All problems of the definition are shown. */
	let all = $state(false);
	const MOST_PROBLEMS = 200;
	// a definition may take long to read, and whoever leaves it waits for nothing
	let aborter: AbortController | undefined;
	const ready = $derived((files.length > 0 || address.trim() !== '') && name !== '');

	// what was fetched before can be read again from where it is
	let known: DefinitionList = $state.raw([]);
	$effect(() => {
		listDefinitions(project).then(
			(list) => (known = list),
			// they are offered as a convenience alone
			() => {}
		);
	});
	const sources = $derived(known.flatMap(({ source }) => source ?? []));
	async function again(source: (typeof sources)[number]) {
		files = [];
		plan = undefined;
		({ name, address, connection } = source);
		named = true;
		await look();
	}

	const base64Of = (file: File): Promise<string> =>
		new Promise((resolve, reject) => {
			const reader = new FileReader();
			reader.onload = () => resolve(String(reader.result).replace(/^[^,]*,/, ''));
			reader.onerror = () => reject(new Error(`${file.name} cannot be read`));
			reader.readAsDataURL(file);
		});
	const HAR = /\.har$/i;
	/** A browser's recording: it becomes a collection of its own. */
	let recording: File | undefined = $state.raw();
	async function makeRecorded(steps: { step: JsonObject; connection: string }[], written: WrittenFile[]) {
		const wanted = recording!.name.replace(HAR, '');
		const own = freeName(nameFrom(wanted), await project.takenIn('collections'));
		const connection = steps[0]!.connection;
		const scenario: JsonObject = {
			...{ id: 'recorded', title: 'As it was recorded' },
			steps: steps.map(({ step, connection: through }) => ({
				...step,
				...(through === connection ? {} : { connection: through })
			}))
		};
		const path = `collections/${own}.yaml`;
		const { revision } = await api.put<{ revision: number }>(fileUrl(project.name, path), {
			value: { heron: 1, title: wanted, connection, scenarios: [scenario] },
			revision: 0
		});
		await project.reload();
		offerUndo(project, [...written, { path, revision, was: 0 }], `${counted(steps.length, 'step')} made.`, () =>
			goto(`/${project.name}/collections`)
		);
		await goto(`/${project.name}/collections/${own}`);
	}
	async function take(list: FileList | null) {
		const chosen = [...(list ?? [])];
		if (chosen.length === 0) return;
		recording = chosen.find((file) => HAR.test(file.name));
		if (recording) return;
		try {
			const wanted =
				chosen.length === 1 ? chosen : chosen.filter((file) => /\.(wsdl|xsd|xml|zip|json|ya?ml)$/i.test(file.name));
			files = await Promise.all(
				wanted.map(async (file) => ({
					// a folder's own name is no part of the paths below it
					path: (file.webkitRelativePath || file.name).replace(/^[^/]+\/(?=.)/, ''),
					base64: await base64Of(file)
				}))
			);
			address = '';
			const main = files.find(({ path }) => /\.wsdl$/i.test(path)) ?? files[0];
			name = nameFrom(main?.path ?? '');
			named = false;
			await look();
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	const order = () => ({
		name,
		files,
		address: address.trim(),
		connection,
		environment: project.environment,
		others
	});
	/** Tells what the import would do. */
	async function look() {
		if (!ready) return;
		aborter?.abort();
		const now = (aborter = new AbortController());
		busy = true;
		trouble = '';
		const asked = order();
		// what was changed meanwhile is looked at anew
		const stale = () =>
			JSON.stringify({ ...asked, files: [] }) !== JSON.stringify({ ...order(), files: [] }) || asked.files !== files;
		try {
			const found = await api.post<ImportPlan>(
				`/projects/${project.name}/definitions`,
				{ ...asked, unnamed: !named },
				now.signal
			);
			if (stale()) return;
			plan = found;
			const [only, ...more] = found.plans;
			if (only && more.length === 0) name = only.name;
			chosenFixes = [];
			chosen = found.plans.flatMap(({ offers }) => offers.filter((one) => one.chosen).map(({ key }) => key));
		} catch (error) {
			if (stale() || now.signal.aborted) return;
			plan = undefined;
			trouble = messageOf(error);
		} finally {
			if (aborter === now) busy = false;
		}
	}
	function stop() {
		aborter?.abort();
		aborter = undefined;
		busy = false;
	}
	$effect(() => {
		if (!given) return;
		({ files, address } = given);
		const [har] = files.filter(({ path }) => HAR.test(path));
		if (har) {
			files = [];
			recording = new File([base64ToBytes(har.base64) as Uint8Array<ArrayBuffer>], har.path);
			return;
		}
		const main = files.find(({ path }) => /\.wsdl$/i.test(path)) ?? files[0];
		name = nameFrom(main?.path ?? address.replace(/[?#].*$/, ''));
		untrack(() => void look());
	});
	onDestroy(() => aborter?.abort());
	async function apply() {
		busy = true;
		try {
			const done = await api.post<ImportPlan>(`/projects/${project.name}/definitions`, {
				...order(),
				...(plan?.plans.some(({ offers }) => offers.length > 0) ? { choose: chosen } : {}),
				...(chosenFixes.length > 0 ? { fix: chosenFixes } : {}),
				apply: true
			});
			readAnew();
			await project.reload();
			const added = done.plans.reduce((sum, one) => sum + one.added.length, 0);
			offerUndo(
				project,
				done.written ?? [],
				added > 0 ? `${counted(added, 'scenario')} made.` : 'The definition is in the project.',
				async () => {
					readAnew();
					await goto(`/${project.name}/collections`);
				}
			);
			onclose();
			const [first] = done.plans;
			if (first && (await project.allCollections()).some((one) => one.name === first.name))
				await goto(`/${project.name}/collections/${first.name}`);
		} catch (error) {
			trouble = messageOf(error);
		} finally {
			busy = false;
		}
	}
	/** So many changes are told of what no step calls. */
	const MOST_CHANGES = 40;
	const shownChanges = (changes: ImportPlan['plans'][number]['changes']) =>
		changes.filter(({ steps }, at) => steps.length > 0 || at < MOST_CHANGES);
	const words = { added: 'is new', gone: 'is gone', changed: 'has changed' } as const;
	const asked = (one: ImportPlan['plans'][number]) => [
		...new Set(
			one.operations
				.filter(({ wants }) => wants.length > 0)
				.map(({ key, wants }) => `${key} asks for ${wants.join(', ')}`)
		)
	];
</script>

{#if recording}{#await import('../exchange/RecordingDialog.svelte') then { default: RecordingDialog }}<RecordingDialog
			{project}
			file={recording}
			ids={[]}
			into="a new collection"
			onmake={makeRecorded}
			onclose={() => {
				recording = undefined;
				if (files.length === 0) onclose();
			}}
		/>{/await}{/if}
<section class="border-b border-line py-3" aria-label="Import a definition">
	<div class="grid grid-cols-[7rem_1fr] items-center gap-x-3 gap-y-2 text-[13px]">
		<span class="text-quiet">from</span>
		<span class="flex flex-wrap items-center gap-3">
			<label class="press cursor-pointer"
				>files, a ZIP or a recording (HAR)<input
					type="file"
					class="sr-only"
					multiple
					accept=".wsdl,.xsd,.xml,.zip,.json,.yaml,.yml,.har"
					aria-label="WSDL with its schemas, OpenAPI, a ZIP of them, or a browser’s recording (HAR)"
					onchange={(event) => take(event.currentTarget.files)}
				/></label
			>
			<label class="press cursor-pointer"
				>a folder<input
					type="file"
					class="sr-only"
					webkitdirectory
					aria-label="A folder with a definition"
					onchange={(event) => take(event.currentTarget.files)}
				/></label
			>
			<span class="text-quiet">or</span>
			<input
				class="field data min-w-60 flex-1"
				placeholder="https://host/service?wsdl or …/openapi.json"
				aria-label="Address of the definition"
				bind:value={address}
				oninput={() => {
					files = [];
					plan = undefined;
					name = address ? nameFrom(address.replace(/[?#].*$/, '')) : '';
					named = false;
				}}
				onkeydown={(event) => event.key === 'Enter' && look()}
			/>
		</span>
		{#if sources.length > 0}<span class="text-quiet">again</span><span class="flex flex-wrap gap-3 py-1"
				>{#each sources as source (source.name)}<button
						class="word"
						title={source.address}
						onclick={() => again(source)}>read {source.name} again</button
					>{/each}</span
			>{/if}
		{#if files.length > 0}<span class="text-quiet">given</span><span class="data truncate"
				>{files
					.slice(0, 4)
					.map(({ path }) => path)
					.join(', ')}{files.length > 4 ? ` and ${files.length - 4} more` : ''}</span
			>{/if}
		<label class="contents"
			><span class="text-quiet">called</span><input
				class="field data max-w-60"
				aria-label="Name"
				bind:value={name}
				oninput={() => {
					plan = undefined;
					named = true;
				}}
			/></label
		>
		<label class="contents"
			><span class="text-quiet">through</span>
			<select class="field max-w-60" aria-label="Connection" bind:value={connection} onchange={look}>
				<option value="">a connection that fits, or a new one</option>
				{#each project.overview.connections as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
			</select></label
		>
	</div>
	{#if trouble}<p class="note mt-2" role="alert">{trouble}</p>{/if}
	{#each plan?.missing ?? [] as one (one.address)}<p class="mt-1 text-[13px] text-fail">
			{one.address} could not be fetched: {one.detail}
		</p>{/each}
	{#if plan?.missing.some(({ detail }) => detail === OTHER_HOST)}<button
			class="word mt-1 text-[13px]"
			onclick={() => {
				others = true;
				void look();
			}}>ask the other hosts too</button
		>{/if}
	{#each plan?.plans ?? [] as one (one.file)}
		<div class="mt-2 text-[13px]" role="status">
			<p>
				<span class="data">{one.file}</span>: {counted(
					new Set(one.operations.map(({ key }) => key)).size,
					'operation'
				)}.
				{one.offers.length > 0
					? 'Choose the scenarios that are made; answers can be held against the definition in any case.'
					: one.added.length > 0
						? `${counted(one.added.length, 'scenario')} will be made in the collection ${one.name}.`
						: 'No scenario is added.'}
				{one.made.length > 0 ? `New: ${one.made.map((path) => path.replace(/\.yaml$/, '')).join(', ')}.` : ''}
				{one.kept.length > 0
					? `${counted(one.kept.length, 'operation')} called already: what you have stays as it is.`
					: ''}
			</p>
			{#if one.bound.length > 0}<p>
					{one.bound.join(', ')}: which definition is meant will be written there, for this one has operations of the
					same name.
				</p>{/if}
			{#if one.offers.length > 0}<Offers offers={one.offers} bind:chosen />{/if}
			{#each asked(one) as text, index (index)}<p class="text-quiet">{text}.</p>{/each}
			{#if one.changes.length > 0}
				<table class="mt-1 w-full border-collapse" aria-label="What has changed">
					<tbody>
						{#each shownChanges(one.changes) as change (`${change.key} ${change.version}`)}
							<tr class="border-t border-line align-baseline"
								><th class="data py-0.5 pr-3 text-left font-normal">{change.key}</th><td class="pr-3 text-quiet"
									>{change.version ? `SOAP ${change.version}` : ''}</td
								><td class="pr-3 whitespace-nowrap"
									>{words[change.change]}{#if change.level && change.level !== 'harmless'}, <span
											class={change.level === 'breaking' ? 'font-semibold text-fail' : 'text-quiet'}
											>{change.level}</span
										>{/if}</td
								><td>{change.what.join('; ')}</td><td class="text-quiet"
									>{change.steps.length > 0 ? `called by ${change.steps.join(', ')}` : ''}</td
								></tr
							>
						{/each}
					</tbody>
				</table>
				{@const left = one.changes.length - shownChanges(one.changes).length}
				{#if left > 0}<p class="text-quiet">and {counted(left, 'change')} more of what no step calls</p>{/if}
			{/if}
			{#if one.fixes.length > 0}<Fixes fixes={one.fixes} bind:chosen={chosenFixes} />{/if}
			{#if one.problems.length > 0}
				{@const shown = all ? MOST_PROBLEMS : 4}
				<ul class="mt-1" aria-label="Problems of the definition">
					{#each one.problems.slice(0, shown) as problem, index (index)}<li>
							<span class="data text-quiet">{problem.file}:{problem.line}</span>
							{problem.message}
						</li>{/each}
					{#if one.problems.length > shown}<li class="flex gap-2 text-quiet">
							<span>and {one.problems.length - shown} more</span>
							{#if !all}<button class="word soft" onclick={() => (all = true)}>show them</button>{/if}
						</li>{/if}
				</ul>
			{/if}
		</div>
	{/each}
	<div class="mt-3 flex gap-3">
		{#if plan}<button class="press go" disabled={busy} onclick={apply}>{busy ? 'Importing…' : 'Import'}</button>
		{:else}<button class="press go" disabled={!ready || busy} onclick={look}>{busy ? 'Reading…' : 'Look at it'}</button
			>{/if}
		{#if busy && !plan}<button class="press" onclick={stop}>Stop</button>{/if}
		<button class="press" onclick={onclose}>Leave it</button>
	</div>
</section>
