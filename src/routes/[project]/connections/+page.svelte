<script lang="ts">
	import { page } from '$app/state';
	import { credentialKinds } from '#core/auth/index.ts';
	import { counted } from '#core/messages.ts';
	import { api } from '#ui/common/api.ts';
	import { addDocument } from '#ui/common/files.ts';
	import StageMark from '#ui/connection/StageMark.svelte';
	import { startOf } from '#ui/credential/start.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';

	interface LastReach {
		target: string;
		outcome: 'passed' | 'warning' | 'refused' | 'failed';
		at: number;
		finding: string;
	}
	const project = useProject();
	const credentials = $derived(page.url.searchParams.get('show') === 'credentials');
	let reaches: LastReach[] = $state.raw([]);
	$effect(() => {
		const { environment, name } = project();
		void api
			.get<LastReach[]>(`/projects/${name}/reach?environment=${encodeURIComponent(environment)}`)
			.then((found) => (reaches = found));
	});
	let words = $state('');
	let kind = $state('');
	let outcome = $state('');
	type Column = 'title' | 'base' | 'credential' | 'reach' | 'uses';
	let order: { by: Column; down: boolean } = $state({ by: 'title', down: false });
	let choosing = $state(false);

	/** The address with the variables of the environment in it, as far as they are plain. */
	const filled = (base: string): string =>
		base.replace(/\{\$env\.(\w+)\}/g, (whole, name: string) => {
			const value = project().values[name];
			return typeof value === 'string' ? value : whole;
		});
	const rows = $derived.by(() => {
		const last = new Map(reaches.map((reach) => [reach.target, reach]));
		const kinds = new Map(project().overview.credentials.map((one) => [one.name, one]));
		return project().overview.connections.map((connection) => {
			const credential = project().credentialOf(connection.name);
			return {
				...connection,
				address: filled(connection.base),
				credential,
				label: kinds.get(credential)?.label ?? '',
				kind: kinds.get(credential)?.kind ?? 'none',
				reach: last.get(connection.name),
				steps: connection.usedSteps
			};
		});
	});
	type Row = (typeof rows)[number];
	const sorts: Record<Column, (row: Row) => string | number> = {
		title: (row) => row.title.toLowerCase(),
		base: (row) => row.address.toLowerCase(),
		credential: (row) => row.label.toLowerCase(),
		reach: (row) => ({ failed: 0, refused: 1, warning: 2, passed: 3 })[row.reach?.outcome as 'failed'] ?? 4,
		uses: (row) => -row.steps
	};
	const shown = $derived.by(() => {
		const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
		const key = sorts[order.by];
		const way = order.down ? -1 : 1;
		return rows
			.filter((row) => {
				const text = `${row.title} ${row.name} ${row.base} ${row.address} ${row.credential} ${row.label}`.toLowerCase();
				return (
					wanted.every((word) => text.includes(word)) &&
					(!kind || row.kind === kind) &&
					(!outcome || (row.reach?.outcome ?? 'never') === outcome)
				);
			})
			.sort((a, b) => {
				const [left, right] = [key(a), key(b)];
				return way * (left < right ? -1 : left > right ? 1 : a.title.localeCompare(b.title));
			});
	});
	const shownCredentials = $derived(
		project().overview.credentials.filter(
			(one) =>
				`${one.title} ${one.name} ${one.label}`.toLowerCase().includes(words.toLowerCase()) &&
				(!kind || one.kind === kind)
		)
	);
	const usedKinds = $derived(
		credentialKinds.filter((one) =>
			(credentials ? project().overview.credentials : rows).some((row) => row.kind === one.key)
		)
	);
	const outcomes = { passed: 'reached', warning: 'reached, with a word', refused: 'refused', failed: 'not reached' };
	const marks = { passed: 'passed', warning: 'warning', refused: 'failed', failed: 'failed' } as const;
	const ago = (at: number): string => {
		const minutes = Math.round((Date.now() - at) / 60_000);
		return minutes < 1
			? 'just now'
			: minutes < 60
				? `${minutes} min ago`
				: minutes < 1440
					? `${Math.round(minutes / 60)} h ago`
					: new Date(at).toLocaleDateString();
	};
	const heads: [Column, string, string][] = [
		['title', 'connection', 'w-[30%]'],
		['base', 'base address', 'w-[19%]'],
		['credential', 'signs in as', 'w-[18%]'],
		['reach', 'last reach check', 'w-[24%]'],
		['uses', 'used by', 'w-[9%]']
	];
	const start = { heron: 1, title: 'New connection', base: 'http://127.0.0.1' };
	const at = $derived(`/${project().name}`);
</script>

<svelte:head><title>Connections · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1>Connections</h1>
		<nav class="switch" aria-label="What is listed">
			<a class="px-2 py-px {credentials ? '' : 'bg-ink text-paper'}" href="{at}/connections" aria-current={!credentials}
				>{counted(rows.length, 'connection')}</a
			>
			<a
				class="px-2 py-px {credentials ? 'bg-ink text-paper' : ''}"
				href="{at}/connections?show=credentials"
				aria-current={credentials}>{counted(project().overview.credentials.length, 'credential')}</a
			>
		</nav>
		<input
			class="field ml-auto w-52"
			type="search"
			placeholder={credentials ? 'name, kind' : 'name, address, credential'}
			aria-label="Filter the list"
			bind:value={words}
		/>
		<select class="field" aria-label="Kind of credential" bind:value={kind}>
			<option value="">every kind</option>
			{#each usedKinds as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
			{#if !credentials && !usedKinds.some((one) => one.key === 'none')}<option value="none">nobody</option>{/if}
		</select>
		{#if credentials}
			<button class="press go" aria-expanded={choosing} onclick={() => (choosing = !choosing)}>New credential</button>
		{:else}
			<select class="field" aria-label="Last reach check" bind:value={outcome}>
				<option value="">reached or not</option>
				{#each Object.entries(outcomes) as [key, word] (key)}<option value={key}>{word}</option>{/each}
				<option value="never">never checked</option>
			</select>
			<button class="press go" onclick={() => addDocument(project(), 'connections', 'connection', start)}
				>New connection</button
			>
		{/if}
	</div>
	<div class="min-h-0 flex-1 overflow-auto pb-6">
		{#if credentials}
			{#if choosing || project().overview.credentials.length === 0}
				<ul
					class="grid grid-cols-2 gap-x-8 border-b border-rule py-2 max-[640px]:grid-cols-1"
					aria-label="Kinds of credentials"
				>
					{#each credentialKinds.filter((one) => one.key !== 'none') as one (one.key)}
						<li class="border-b border-line last:border-0">
							<button
								class="w-full py-1.5 text-left hover:bg-sheet"
								onclick={() => addDocument(project(), 'credentials', one.key, startOf(one, one.key))}
								><b>{one.label}</b> <span class="text-[13px] text-quiet">{one.standard}</span><br /><span
									class="text-[13px]">{one.doc}</span
								></button
							>
						</li>
					{/each}
				</ul>
			{/if}
			<table class="sheet-table folds mt-1 table-fixed">
				<thead>
					<tr>
						<th class="w-[30%]">credential</th><th class="w-[18%]">kind</th><th class="w-[26%]">on connections</th><th
							class="w-[26%]">used by</th
						>
					</tr>
				</thead>
				<tbody>
					{#each shownCredentials as one (one.name)}
						<tr class="relative">
							<td class="whole truncate"
								><a
									class="font-semibold after:absolute after:inset-0 hover:underline"
									href="{at}/credentials/{one.name}">{one.title}</a
								>
								<span class="data ml-2 text-quiet">{one.name}</span></td
							>
							<td>{one.label}</td>
							<td class="data truncate text-[13px]">{one.connections.join(', ')}</td>
							<td class="truncate text-[13px] text-quiet"
								>{one.uses.length === 0
									? 'no step'
									: one.uses
											.slice(0, 8)
											.map((use) => `${use.steps} of ${use.title}`)
											.join(', ')}{one.uses.length + one.moreUses > 8
									? ` and ${one.uses.length + one.moreUses - 8} more`
									: ''}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if shownCredentials.length === 0}<p class="py-6 text-quiet">
					{words || kind
						? 'No credential fits.'
						: 'No credential yet. It says how calls prove who sends them; its secrets stay in the vault.'}
				</p>{/if}
		{:else}
			<table class="sheet-table folds mt-1 table-fixed">
				<thead>
					<tr>
						{#each heads as [key, word, width] (key)}
							<th class={width} aria-sort={order.by === key ? (order.down ? 'descending' : 'ascending') : 'none'}
								><button
									class={order.by === key ? 'text-ink' : ''}
									onclick={() => (order = { by: key, down: order.by === key ? !order.down : false })}
									>{word}{order.by === key ? (order.down ? ' ↓' : ' ↑') : ''}</button
								></th
							>
						{/each}
					</tr>
				</thead>
				<tbody>
					{#each shown as row (row.name)}
						<!-- the whole row leads to the connection -->
						<tr id={row.name} class="relative" style="content-visibility: auto">
							<td class="whole truncate"
								><a
									class="font-semibold after:absolute after:inset-0 hover:underline"
									href="{at}/connections/{row.name}">{row.title}</a
								>
								<span class="data ml-2 text-quiet">{row.name}</span></td
							>
							<td class="data truncate" title={row.base}
								>{#if row.unverified}<span class="mr-2 text-xs text-fail" style="font-family: var(--font-sans)"
										>not verified</span
									>{/if}{row.address}</td
							>
							<td class="truncate">
								{#if row.credential}<a class="data relative z-10" href="{at}/credentials/{row.credential}"
										>{row.credential}</a
									>
									<span class="ml-1 text-[13px] text-quiet">{row.label}</span>{:else}<span class="text-quiet"
										>nobody</span
									>{/if}
							</td>
							<td class="truncate text-[13px]" title={row.reach?.finding}>
								{#if row.reach}<StageMark state={marks[row.reach.outcome]} />
									<span class={marks[row.reach.outcome] === 'failed' ? 'font-semibold text-fail' : ''}
										>{row.reach.finding || outcomes[row.reach.outcome]}</span
									> <span class="text-quiet">{ago(row.reach.at)}</span>{:else}<span class="text-quiet"
										>never in {project().environment || 'this project'}</span
									>{/if}
							</td>
							<td class="text-[13px] text-quiet"
								>{row.steps === 0 ? 'nobody' : `${row.steps} ${row.steps === 1 ? 'step' : 'steps'}`}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if shown.length === 0}<p class="py-6 text-quiet">
					{rows.length > 0
						? 'No connection fits.'
						: 'No connection yet. It holds the base address that all paths are appended to, and the way there.'}
				</p>{/if}
		{/if}
	</div>
</div>
