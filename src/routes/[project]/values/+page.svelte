<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import { focusCell, undoByKey } from '#ui/common/cells.ts';
	import { api, messageOf } from '#ui/common/api.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { provideEvaluate, provideProjectNames } from '#ui/editor/names.svelte.ts';
	import { resultText, tryExpression } from '#ui/editor/try.ts';
	import { hints } from '#ui/shell/hint.svelte.ts';
	import { tellProject, useProject } from '#ui/shell/project.svelte.ts';
	import Details from '#ui/values/Details.svelte';
	import EnvironmentDetails from '#ui/values/EnvironmentDetails.svelte';
	import { Matrix, type Column } from '#ui/values/matrix.svelte.ts';
	import ProjectDetails from '#ui/values/ProjectDetails.svelte';
	import NameCell from '#ui/values/NameCell.svelte';
	import NewValues from '#ui/values/NewValues.svelte';
	import { secretAt } from '#ui/values/place.ts';
	import { rowsOf } from '#ui/values/rows.ts';
	import SecretCells from '#ui/values/SecretCells.svelte';
	import SecretDialog from '#ui/values/SecretDialog.svelte';
	import { Secrets } from '#ui/values/secrets.svelte.ts';
	import { Sight } from '#ui/values/sight.svelte.ts';
	import ValuesHead from '#ui/values/ValuesHead.svelte';
	import VariableCell from '#ui/values/VariableCell.svelte';
	import { tick, untrack } from 'svelte';
	import LongList from '#ui/common/LongList.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	provideProjectNames(project);
	provideEvaluate(async (text) =>
		resultText(await tryExpression(data.project, { text, environment: project().environment }))
	);
	const matrix = $derived.by(() => {
		const columns = data.documents.map(({ name, path, stored }) => {
			const document = new DocumentState(data.project, path, stored);
			tellProject(project, document, () => loadSecrets());
			return { name, document };
		});
		const local = new DocumentState(data.project, data.local.path, data.local.stored);
		tellProject(project, local);
		return untrack(() => new Matrix(columns, local));
	});
	const columns = $derived(matrix.columns);
	const sight = new Sight(() => columns);
	let opened = $state('');
	/** The column whose title and the like are open. */
	let facts: string | undefined = $state();
	let uses: Record<string, number> = $state.raw({});
	let chosen: { name: string; environment: string } | undefined = $state();
	const secrets = $derived(new Secrets(data.project, data.secrets));
	const loadSecrets = () => {
		void secrets.load().catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
		void api
			.get<Record<string, number>>(`/projects/${data.project}/names`)
			.then((found) => (uses = found))
			.catch(() => {});
	};
	$effect(() => {
		void project().overview;
		void secrets;
		untrack(loadSecrets);
	});
	$effect(() => {
		hints.text = '↑↓ Enter between rows · Ctrl+Enter fills the row · F2 opens it · ? keys';
		return () => (hints.text = '? keys');
	});
	const rows = $derived(rowsOf(matrix, secrets.list, opened));
	// rows that come or go above leave what has the focus where it is
	let restore: (() => void) | undefined;
	$effect.pre(() => {
		void rows;
		restore = sight.hold();
	});
	$effect(() => {
		void rows;
		restore?.();
	});
	const go = (name: string, column: Column, down: number, right: number) =>
		sight.goTo(() => rows, matrix.rows[matrix.rows.indexOf(name) + down], columns[columns.indexOf(column) + right]);
	async function renamed(root: 'env' | 'secret', name: string) {
		opened = `${root}.${name}`;
		await invalidateAll();
	}
	// #name leads to a variable
	const named = $derived(page.url.hash.slice(1));
	$effect(() => {
		const name = named;
		const handle = sight.list;
		if (!name || !handle) return;
		untrack(() => {
			const index = rows.findIndex((row) => row.kind === 'variable' && row.name === name);
			if (index >= 0) return handle.scrollToIndex(index, { align: 'center' });
			if (secretAt(name) !== undefined) return;
			void focusCell('new-variable', () => handle.scrollToIndex(rows.length - 1));
		});
	});
	// #secret.NAME opens a secret where it is set
	const secretNamed = $derived(secretAt(named));
	$effect(() => {
		const name = secretNamed;
		if (name) untrack(() => (chosen = { name, environment: project().environment }));
	});
	const turn = (what: string) => (opened = opened === what ? '' : what);
	const countOf = (root: string, name: string) => uses[`${root}.${name}`] ?? 0;
</script>

<svelte:window
	onkeydown={(event) => undoByKey(event, matrix)}
	onbeforeunload={(event) =>
		[matrix.local, ...columns.map((one) => one.document)].some(({ status }) => status === 'conflict') &&
		event.preventDefault()}
/>
<svelte:head><title>Values · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<ValuesHead {matrix} />
	{#each columns.filter(({ name }) => name === facts) as column (column.name)}
		{#if column.name === ''}<ProjectDetails {matrix} {column} />{:else}<EnvironmentDetails
				{matrix}
				{column}
				onclose={() => (facts = undefined)}
			/>{/if}
	{/each}
	<div
		class="min-h-0 flex-1 overflow-x-auto"
		role="group"
		aria-label="Variables down, environments across"
		bind:this={sight.viewport}
		bind:clientWidth={sight.room}
		onscroll={(event) => (sight.left = event.currentTarget.scrollLeft)}
	>
		<div class="flex h-full flex-col" style={sight.width}>
			<div class="grid items-center border-b border-rule py-1 text-[12px] text-quiet" style={sight.grid}>
				<span class="sticky left-0 z-10 bg-paper">variable</span>
				<span></span>
				{#each sight.shown as { name, document } (name)}<span
						class="truncate pr-2 {name === project().environment ? 'font-bold text-ink' : ''}"
						title={document.problems.map((one) => one.message).join('\n')}
						><button
							class="min-h-6 max-w-full truncate align-bottom underline decoration-dotted"
							aria-expanded={facts === name}
							title={name ? 'its title, its name, whether real users live there' : 'its title, what its calls bear'}
							onclick={() => (facts = facts === name ? undefined : name)}
							>{name || 'project'}{name !== '' && name === project().environment ? ', chosen' : ''}</button
						>{#if document.problems.length}<span class="ml-2 text-fail">{document.problems[0]!.message}</span
							>{/if}</span
					>{/each}
			</div>
			<div class="min-h-0 flex-1">
				<!-- what is typed in the last row must not go when rows above push it out of sight -->
				<LongList
					bind:handle={sight.list}
					data={rows}
					getKey={(row) => row.key}
					keepMounted={[rows.length - 1]}
					style="height: 100%"
				>
					{#snippet children(row)}
						{#if row.kind === 'variable'}
							{@const { name } = row}
							<div class="grid items-baseline border-b border-line py-0.5 hover:bg-sheet" style={sight.grid} id={name}>
								<NameCell
									{name}
									label="{name}: where it is used, its note"
									note={String(matrix.notes[name] ?? '')}
									title={String(matrix.notes[name] ?? '')}
									count={countOf('env', name)}
									opened={opened === `env.${name}`}
									onclick={() => turn(`env.${name}`)}
								/>
								<span></span>
								{#each sight.shown as column (column.name)}
									<VariableCell
										{matrix}
										{name}
										{column}
										ongo={(down, right) => go(name, column, down, right)}
										onopen={() => (opened = `env.${name}`)}
									/>
								{/each}
							</div>
						{:else if row.kind === 'details'}
							<Details {matrix} root={row.root} name={row.name} onrenamed={(name) => void renamed(row.root, name)} />
						{:else if row.kind === 'secret'}
							{@const { secret } = row}
							<div class="grid items-baseline border-b border-line py-0.5 hover:bg-sheet" style={sight.grid}>
								<NameCell
									name={secret.name}
									label="Secret {secret.name}: where it is used"
									title={secret.variable}
									secret
									count={countOf('secret', secret.name)}
									opened={opened === `secret.${secret.name}`}
									onclick={() => turn(`secret.${secret.name}`)}
								/>
								<span></span>
								<SecretCells
									{secret}
									shown={sight.shown}
									onchoose={(environment) => (chosen = { name: secret.name, environment })}
								/>
							</div>
						{:else}
							<NewValues
								{matrix}
								ongo={(name, column) => void tick().then(() => go(name, column, 0, 0))}
								wanted={secretAt(named) === undefined && !matrix.names.includes(named) ? named : ''}
								onsecret={(name) => (chosen = { name, environment: project().environment })}
							/>
						{/if}
					{/snippet}
				</LongList>
			</div>
		</div>
	</div>
</div>
{#if chosen}<SecretDialog
		{secrets}
		{chosen}
		document={columns.find((column) => column.name !== '' && column.name === chosen?.environment)?.document}
		onclose={() => {
			chosen = undefined;
			// so that the same address opens it once more
			if (secretNamed) void goto(page.url.pathname, { replaceState: true, noScroll: true, keepFocus: true });
		}}
		onchange={() => {
			void project().resolve();
			for (const { document } of columns) void document.refresh();
		}}
	/>{/if}
