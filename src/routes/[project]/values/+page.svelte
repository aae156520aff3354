<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import type { JsonObject } from '#core/model/json.ts';
	import { focusCell, pastedBlock, stepOf, undoByKey } from '#ui/common/cells.ts';
	import { api, messageOf } from '#ui/common/api.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import SaveState from '#ui/common/SaveState.svelte';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import CodeField from '#ui/editor/CodeField.svelte';
	import { provideEvaluate, provideProjectNames } from '#ui/editor/names.svelte.ts';
	import { toldOf, tryExpression } from '#ui/editor/try.ts';
	import { hints } from '#ui/frame/hint.svelte.ts';
	import { tellProject, useProject } from '#ui/frame/project.svelte.ts';
	import { showCell, typeOfCell } from '#ui/values/cell.ts';
	import Datasets from '#ui/values/Datasets.svelte';
	import Details from '#ui/values/Details.svelte';
	import { Matrix, NAME, type Column } from '#ui/values/matrix.svelte.ts';
	import NameCell from '#ui/values/NameCell.svelte';
	import SecretCells from '#ui/values/SecretCells.svelte';
	import SecretDialog from '#ui/values/SecretDialog.svelte';
	import { Secrets, type Secret } from '#ui/values/secrets.svelte.ts';
	import TryLine from '#ui/values/TryLine.svelte';
	import { tick, untrack } from 'svelte';
	import type { VListHandle } from 'virtua/svelte';
	import LongList from '#ui/common/LongList.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	provideProjectNames(project);
	provideEvaluate(async (text) =>
		toldOf(await tryExpression(data.project, { text, environment: project().environment }))
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
	let list: VListHandle | undefined = $state();
	let opened = $state('');
	let uses: Record<string, number> = $state.raw({});
	const exampleValue = '{$env.host}/v1';
	const secretsOf = (document: DocumentState): string[] => {
		const value = document.value as JsonObject | null;
		return Array.isArray(value?.secrets) ? value.secrets.map(String) : [];
	};
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
	let chosen: { name: string; environment: string } | undefined = $state();
	let fresh = $state('');
	let freshSecret = $state('');
	let freshEnvironment = $state('');
	type Row =
		| { kind: 'variable'; key: string; name: string }
		| { kind: 'details'; key: string; name: string; root: 'env' | 'secret' }
		| { kind: 'secret'; key: string; secret: Secret }
		| { kind: 'end'; key: string };
	const rows = $derived.by((): Row[] => {
		const out: Row[] = [];
		for (const name of matrix.rows) {
			out.push({ kind: 'variable', key: `v ${name}`, name });
			if (opened === `env.${name}`) out.push({ kind: 'details', key: `d ${name}`, name, root: 'env' });
		}
		const word = matrix.search.toLowerCase();
		if (matrix.only === 'all')
			for (const secret of secrets.list) {
				if (!secret.name.toLowerCase().includes(word)) continue;
				out.push({ kind: 'secret', key: `s ${secret.name}`, secret });
				if (opened === `secret.${secret.name}`)
					out.push({ kind: 'details', key: `ds ${secret.name}`, name: secret.name, root: 'secret' });
			}
		out.push({ kind: 'end', key: 'end' });
		return out;
	});
	let frame: HTMLElement | undefined = $state();
	// rows that come or go above leave what has the focus where it is
	let held: { element: Element; top: number } | undefined;
	$effect.pre(() => {
		void rows;
		const element = document.activeElement;
		held = element && frame?.contains(element) ? { element, top: element.getBoundingClientRect().top } : undefined;
	});
	$effect(() => {
		void rows;
		const was = held;
		if (!was) return;
		let frames = 4;
		const settle = () => {
			if (document.activeElement !== was.element) return;
			const moved = was.element.getBoundingClientRect().top - was.top;
			if (Math.abs(moved) > 1) list?.scrollBy(moved);
			if (--frames > 0) requestAnimationFrame(settle);
		};
		requestAnimationFrame(settle);
	});
	// of many columns only those in sight are drawn
	const NAME_WIDTH = 230;
	const WIDTH = 150;
	const MANY = 9;
	let left = $state(0);
	let room = $state(1280);
	const range = $derived.by(() => {
		if (columns.length < MANY) return { from: 0, to: columns.length };
		const from = Math.max(0, Math.floor(left / WIDTH) - 1);
		return { from, to: Math.min(columns.length, from + Math.ceil(room / WIDTH) + 2) };
	});
	const shown = $derived(columns.slice(range.from, range.to));
	const grid = $derived(
		columns.length < MANY
			? `grid-template-columns: ${NAME_WIDTH}px 0 repeat(${columns.length}, minmax(${WIDTH}px, 1fr))`
			: `grid-template-columns: ${NAME_WIDTH}px ${range.from * WIDTH}px repeat(${shown.length}, ${WIDTH}px)`
	);
	const width = $derived(`min-width: ${NAME_WIDTH + columns.length * WIDTH}px`);
	const cellId = (name: string, column: string) => `cell-${name}-${column}`;

	async function goTo(name: string | undefined, column: Column | undefined) {
		if (name === undefined || !column) return;
		const id = cellId(name, column.name);
		if (columns.length >= MANY && frame) {
			const at = columns.indexOf(column) * WIDTH;
			if (at < frame.scrollLeft || at + WIDTH > frame.scrollLeft + room - NAME_WIDTH) {
				frame.scrollLeft = Math.max(0, at - WIDTH);
				left = frame.scrollLeft;
				await tick();
			}
		}
		await focusCell(id, () => {
			const at = rows.findIndex((row) => row.kind === 'variable' && row.name === name);
			list?.scrollToIndex(at, { align: 'nearest' });
		});
	}
	function move(event: KeyboardEvent & { currentTarget: HTMLInputElement }, name: string, column: Column) {
		const { currentTarget: cell, key } = event;
		if (key === 'Enter' && (event.ctrlKey || event.metaKey)) {
			event.preventDefault();
			matrix.fill(name, cell.value);
			return toasts.show(`${name} is the same in every environment.`, 'note', {
				label: 'undo',
				run: () => matrix.undo()
			});
		}
		if (key === 'F2') {
			event.preventDefault();
			opened = `env.${name}`;
			return void tick().then(() =>
				document
					.querySelector<HTMLElement>(`[aria-label="Value of ${name} in ${column.name || 'the project'}"]`)
					?.focus()
			);
		}
		if (key === 'Escape') {
			cell.value = showCell(matrix.own(name, column));
			return cell.select();
		}
		const row = matrix.rows.indexOf(name);
		const at = columns.indexOf(column);
		const step = stepOf(event);
		if (!step) return;
		event.preventDefault();
		void goTo(matrix.rows[row + step[0]], columns[at + step[1]]);
	}
	/** The cell whose text has become an expression: names are completed while it is written. */
	let writing: { id: string; text: string; caret: number } | undefined = $state();
	function type(event: Event & { currentTarget: HTMLInputElement }) {
		const { id, value, selectionStart } = event.currentTarget;
		if (value.includes('{$')) writing = { id, text: value, caret: selectionStart ?? value.length };
	}
	/** Takes what was written over, and goes on to another row or back to the cell. */
	async function endWriting(name: string, column: Column, end: 'take' | 'leave', row = 0) {
		const written = writing;
		if (!written) return;
		writing = undefined;
		if (end === 'take') matrix.set(name, column, written.text);
		await tick();
		if (row !== 0 || end === 'leave') await goTo(matrix.rows[matrix.rows.indexOf(name) + row] ?? name, column);
	}
	function writingKeys(event: KeyboardEvent & { currentTarget: HTMLElement }, name: string, column: Column) {
		if (event.ctrlKey || event.metaKey || !['Enter', 'Escape'].includes(event.key)) return;
		// the list of names takes these keys while it is open
		if (event.currentTarget.querySelector('.cm-tooltip-autocomplete')) return;
		event.preventDefault();
		event.stopPropagation();
		if (event.key === 'Enter') void endWriting(name, column, 'take', event.shiftKey ? -1 : 1);
		else void endWriting(name, column, 'leave');
	}
	function paste(event: ClipboardEvent, name: string, column: Column) {
		const text = pastedBlock(event);
		if (text === undefined) return;
		const { written, left } = matrix.paste(name, column, text);
		toasts.show(
			`${written} ${written === 1 ? 'cell' : 'cells'} pasted${left > 0 ? `; ${left} had no row or column to go to` : ''}.`,
			'note',
			{ label: 'undo', run: () => matrix.undo() }
		);
	}
	function pasteRows(event: ClipboardEvent) {
		const text = pastedBlock(event);
		if (text === undefined) return;
		const wrong = matrix.addBlock(text);
		if (wrong.length > 0)
			toasts.show(`Left out, because it cannot be a name: ${wrong.slice(0, 5).join(', ')}`, 'trouble');
	}
	function addVariable(event: SubmitEvent) {
		event.preventDefault();
		const name = fresh.trim();
		if (!NAME.test(name)) return toasts.show(`“${name}” cannot be a name: letters, digits and _ can.`, 'trouble');
		if (matrix.names.includes(name)) return toasts.show(`${name} is there already.`);
		const home = columns.find((column) => column.name === project().environment) ?? columns[0]!;
		matrix.write([{ name, column: home, value: '' }], `adding ${name}`);
		fresh = '';
		void tick().then(() => goTo(name, home));
	}
	function addSecret(event: SubmitEvent) {
		event.preventDefault();
		const name = freshSecret.trim();
		if (!NAME.test(name)) return toasts.show(`“${name}” cannot be a name: letters, digits and _ can.`, 'trouble');
		for (const { name: environment, document } of columns) {
			if (environment === project().environment && !secretsOf(document).includes(name))
				document.set(['secrets'], [...secretsOf(document), name], `naming ${name}`);
		}
		freshSecret = '';
		chosen = { name, environment: project().environment };
	}
	async function addEnvironment(event: SubmitEvent) {
		event.preventDefault();
		const name = freshEnvironment.trim();
		const source = columns.find((column) => column.name === project().environment);
		const { guarded: _, ...copy } = source ? (source.document.value as JsonObject) : { heron: 1 };
		void _;
		try {
			if (!/^[a-z0-9][\w-]*$/i.test(name)) throw new Error(`“${name}” cannot be a name: letters, digits and - can.`);
			const like = columns.find((column) => column.name.toLowerCase() === name.toLowerCase());
			if (like)
				throw new Error(
					`There is ${like.name} already: names that differ by case alone are one file on some machines.`
				);
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
	async function renamed(root: 'env' | 'secret', name: string) {
		opened = `${root}.${name}`;
		await invalidateAll();
	}
	// #name leads to a variable
	$effect(() => {
		const name = page.url.hash.slice(1);
		const handle = list;
		if (!name || !handle) return;
		untrack(() => {
			const index = rows.findIndex((row) => row.kind === 'variable' && row.name === name);
			if (index >= 0) handle.scrollToIndex(index, { align: 'center' });
		});
	});
	const turn = (what: string) => (opened = opened === what ? '' : what);
	const countOf = (root: string, name: string) => uses[`${root}.${name}`] ?? 0;
</script>

<svelte:window
	onkeydown={(event) => undoByKey(event, matrix)}
	onbeforeunload={(event) =>
		[matrix.local, ...columns.map((one) => one.document)].some(({ status }) => status !== 'saved') &&
		event.preventDefault()}
/>
<svelte:head><title>Values · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1>Values</h1>
		<input
			class="field w-44"
			type="search"
			placeholder="search names and values"
			aria-label="Search names and values"
			bind:value={matrix.search}
		/>
		<select class="field" aria-label="Which rows are shown" bind:value={matrix.only}>
			<option value="all">all rows</option>
			<option value="gaps">gaps only ({matrix.gapCount})</option>
			<option value="differ">that differ between</option>
		</select>
		{#if matrix.only === 'differ'}
			{#each [0, 1] as const as side (side)}
				<select
					class="field"
					aria-label={side === 0 ? 'Compare this environment' : 'with this one'}
					bind:value={matrix.compared[side]}
				>
					{#each columns as { name } (name)}<option value={name}>{name || 'project'}</option>{/each}
				</select>
			{/each}
		{/if}
		{#if matrix.last}<SaveState document={matrix.last} />{/if}
		<form class="ml-auto flex items-center gap-2" onsubmit={addEnvironment}>
			<input
				class="field w-32"
				placeholder="name"
				aria-label="Name of a new environment"
				bind:value={freshEnvironment}
			/>
			<button class="press" disabled={!freshEnvironment.trim()}>Copy {project().environment} as new</button>
		</form>
	</div>
	<div
		class="min-h-0 flex-1 overflow-x-auto"
		role="group"
		aria-label="Variables down, environments across"
		bind:this={frame}
		bind:clientWidth={room}
		onscroll={(event) => (left = event.currentTarget.scrollLeft)}
	>
		<div class="flex h-full flex-col" style={width}>
			<div class="grid border-b border-rule py-1 text-[12px] text-quiet" style={grid}>
				<span class="sticky left-0 z-10 bg-paper">variable</span>
				<span></span>
				{#each shown as { name, document } (name)}<span
						class="truncate pr-2 {name === project().environment ? 'font-bold text-ink' : ''}"
						title={document.problems.map((one) => one.message).join('\n')}
						>{name || 'project'}{name === project().environment ? ', chosen' : ''}{#if document.problems.length}<span
								class="ml-2 text-fail">{document.problems[0]!.message}</span
							>{/if}</span
					>{/each}
			</div>
			<div class="min-h-0 flex-1">
				<!-- what is typed in the last row must not go when rows above push it out of sight -->
				<LongList
					bind:handle={list}
					data={rows}
					getKey={(row) => row.key}
					keepMounted={[rows.length - 1]}
					style="height: 100%"
				>
					{#snippet children(row)}
						{#if row.kind === 'variable'}
							{@const { name } = row}
							<div class="grid items-baseline border-b border-line py-0.5 hover:bg-sheet" style={grid} id={name}>
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
								{#each shown as column (column.name)}
									{@const own = matrix.own(name, column)}
									{@const gap = matrix.isGap(name, column)}
									{@const here = matrix.here(name, column)}
									<span class="mr-2 block min-w-0"
										>{#if writing?.id === cellId(name, column.name)}<span
												role="presentation"
												class="block"
												onkeydowncapture={(event) => writingKeys(event, name, column)}
												onfocusout={() => void endWriting(name, column, 'take')}
												><CodeField
													value={writing.text}
													caret={writing.caret}
													label="{name} in {column.name || 'the project'}"
													onchange={(text) => writing && (writing.text = text)}
												/></span
											>{:else}<input
												id={cellId(name, column.name)}
												class="bare data w-full {here !== undefined && column.name ? 'text-quiet! line-through' : ''}"
												style={gap ? 'background: var(--fail-wash)' : ''}
												class:text-err={own !== undefined && typeof own !== 'string'}
												aria-label="{name} in {column.name || 'the project'}"
												title={own === undefined ? '' : typeOfCell(own)}
												placeholder={gap ? 'gap' : showCell(matrix.holds(name, column)).slice(0, 200)}
												value={showCell(own)}
												data-before={showCell(own)}
												onchange={(event) => !writing && matrix.set(name, column, event.currentTarget.value)}
												oninput={type}
												onkeydown={(event) => move(event, name, column)}
												onpaste={(event) => paste(event, name, column)}
											/>{/if}{#if here !== undefined && column.name}<span
												class="data block truncate px-0.5 text-xs"
												title="on this machine alone"><span class="chip font-sans">here</span> {showCell(here)}</span
											>{/if}</span
									>
								{/each}
							</div>
						{:else if row.kind === 'details'}
							<Details {matrix} root={row.root} name={row.name} onrenamed={(name) => void renamed(row.root, name)} />
						{:else if row.kind === 'secret'}
							{@const { secret } = row}
							<div class="grid items-baseline border-b border-line py-0.5 hover:bg-sheet" style={grid}>
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
									{shown}
									onchoose={(environment) => (chosen = { name: secret.name, environment })}
								/>
							</div>
						{:else}
							{#if matrix.names.length === 0}<p class="py-4 text-quiet">
									No variable yet. Name the base address first, then each environment has its own.
								</p>
							{:else if matrix.rows.length === 0}<p class="py-4 text-quiet">
									{matrix.only === 'gaps'
										? 'No gap: every variable has a value in every environment.'
										: 'Nothing like it here.'}
								</p>{/if}
							<div class="flex gap-6 py-3">
								<form class="flex items-center gap-2" onsubmit={addVariable}>
									<input
										class="field w-48"
										placeholder="name, or paste rows"
										aria-label="Name of a new variable"
										bind:value={fresh}
										onpaste={pasteRows}
									/><button class="press" disabled={!fresh.trim()}>Add a variable</button>
								</form>
								<form class="flex items-center gap-2" onsubmit={addSecret}>
									<input
										class="field w-48"
										placeholder="name"
										aria-label="Name of a new secret"
										bind:value={freshSecret}
									/><button class="press" disabled={!freshSecret.trim() || !project().environment}
										>Name a secret of {project().environment}</button
									>
								</form>
							</div>
							<h2 class="label border-t border-rule pt-2">Try an expression</h2>
							<TryLine />
							<h2 class="label border-t border-rule pt-2">Datasets</h2>
							<Datasets />
							<p class="max-w-3xl pt-4 pb-6 text-[13px] text-quiet">
								An empty cell takes the project’s value; a block from a spreadsheet is pasted from the cell on. Values
								of secrets are never in a file: they lie encrypted in the vault of this server, and the vault wins over
								variables such as
								<span class="data">HERON_SECRET_CLERK_PASSWORD</span> of its process. A value may use others:
								<span class="data">{exampleValue}</span>.
							</p>
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
		onclose={() => (chosen = undefined)}
		onchange={() => {
			void project().resolve();
			for (const { document } of columns) void document.refresh();
		}}
	/>{/if}
