<script lang="ts">
	import { newest } from '../common/newest.ts';
	import { goto } from '$app/navigation';
	import type { ChangeSpan } from '#core/diff/spans.ts';
	import { counted } from '#core/messages.ts';
	import type { ChangeHistory, ComparedChanges, VersionTexts, WrittenFile } from '$lib/wire.ts';
	import { untrack } from 'svelte';
	import { api, messageOf } from '../common/api.ts';
	import ChangedFile from '../common/ChangedFile.svelte';
	import LongList from '../common/LongList.svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import { offerUndo } from '../common/undo.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** What was written to a project, change by change. */
	let {
		at,
		against
	}: {
		/** The change that is looked at, by its number; 0 for the newest. */
		at: number;
		/** The change that it is compared with; 0 for the one before it. */
		against: number;
	} = $props();
	const project = useProject();
	const where = $derived(`/projects/${project().name}/changes`);

	let history: ChangeHistory | undefined = $state.raw();
	let compared: ComparedChanges | undefined = $state.raw();
	let trouble = $state('');
	const ask = newest();
	const askCompared = newest();
	async function load() {
		const isNewest = ask();
		try {
			const now = await api.get<ChangeHistory>(where);
			if (!isNewest()) return;
			history = now;
			trouble = '';
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	async function more() {
		const last = history?.spans.at(-1);
		if (!history || !last) return;
		try {
			const older = await api.get<ChangeHistory>(`${where}?before=${last.first}`);
			history = { ...older, spans: [...history.spans, ...older.spans] };
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	$effect(() => {
		// what is written anywhere is a change
		void project().overview;
		void untrack(load);
	});

	const span = $derived(
		history?.spans.find(({ number, first }) => at === 0 || (at >= first && at <= number)) ??
			// one with a name may be further back than what is listed
			(at > 0 ? { number: at, first: at, at: 0, since: 0, saves: 1, files: [], marks: namesOf(at) } : undefined)
	);
	function namesOf(change: number): string[] {
		return (history?.marks ?? []).filter((one) => one.change === change).map(({ name }) => name);
	}
	/** The older of the two first. */
	const pair = $derived.by((): [number, number] | undefined => {
		if (!span) return undefined;
		if (against === 0) return [span.first - 1, span.number];
		return against < span.number ? [against, span.number] : [span.number, against];
	});
	const pairKey = $derived(pair?.join(' ') ?? '');
	$effect(() => {
		const [from, to] = pairKey.split(' ');
		if (from === undefined || to === undefined || pairKey === '') return;
		const isNewest = askCompared();
		compared = undefined;
		api.get<ComparedChanges>(`${where}?from=${from}&to=${to}`).then(
			(found) => isNewest() && (compared = found),
			(error: unknown) => isNewest() && (trouble = messageOf(error))
		);
	});
	const textsOf = (path: string) =>
		api.get<VersionTexts>(`${where}?from=${pair![0]}&to=${pair![1]}&path=${encodeURIComponent(path)}`);

	const hrefOf = (change: number, other = 0) =>
		`/${project().name}/history?at=${change}${other ? `&with=${other}` : ''}`;
	const clock = (ms: number) => new Date(ms).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
	const timesOf = ({ at: end, since, saves }: ChangeSpan): string =>
		`${clock(since) === clock(end) ? clock(end) : `${clock(since)} to ${clock(end)}`}${saves > 1 ? `, ${saves} saves` : ''}`;
	const dayOf = (ms: number) => new Date(ms).toLocaleDateString([], { dateStyle: 'full' });
	const titleOf = ({ files }: ChangeSpan): string => {
		const [first, ...others] = files;
		if (!first) return 'nothing that stayed';
		const name = first.path.replace(/\.yaml$/, '');
		return others.length > 0 ? `${name} and ${counted(others.length, 'more file')}` : name;
	};
	type Row = { key: string; day: string } | { key: string; span: ChangeSpan } | { key: string; more: true };
	const rows = $derived.by((): Row[] => {
		const out: Row[] = [];
		let day = '';
		for (const one of history?.spans ?? []) {
			const own = dayOf(one.at);
			if (own !== day) out.push({ key: `before ${one.number}`, day: (day = own) });
			out.push({ key: String(one.number), span: one });
		}
		return history?.more ? [...out, { key: 'more', more: true }] : out;
	});
	const isNewest = $derived(span !== undefined && span.number === history?.newest);

	let naming: string | undefined = $state();
	let nameTrouble = $state('');
	async function mark(event: SubmitEvent) {
		event.preventDefault();
		if (!history || !span || !naming?.trim()) return;
		try {
			const { marks } = await api.post<Pick<ChangeHistory, 'marks'>>(where, {
				mark: { name: naming.trim(), change: String(span.number) }
			});
			history = { ...history, marks };
			naming = undefined;
			nameTrouble = '';
			await load();
		} catch (error) {
			nameTrouble = messageOf(error);
		}
	}
	async function unmark(name: string) {
		const change = history?.marks.find((one) => one.name === name)?.change;
		try {
			await api.post(where, { unmark: name });
			await load();
			toasts.show(`${name} names nothing any more.`, 'note', {
				label: 'undo',
				run: () =>
					void api
						.post(where, { mark: { name, change: String(change) } })
						.then(load)
						.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
			});
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	let going = $state(false);
	async function back(to: number, paths: string[] = []) {
		going = true;
		try {
			const { written } = await api.post<{ written: WrittenFile[] }>(where, { back: { to: String(to), paths } });
			await project().reload();
			offerUndo(
				project(),
				written,
				written.length === 0
					? 'It is like that already.'
					: `${written.length === 1 ? written[0]!.path : counted(written.length, 'file')} as ${namesOf(to)[0] ?? `of revision ${to}`}.`
			);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
		going = false;
	}
</script>

<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1>History</h1>
		<span class="text-quiet"
			>each change of the project’s files; one with a name is kept, and suites can be run with it</span
		>
	</div>
	{#if trouble}<p class="py-2 text-fail" role="alert">{trouble}</p>{/if}
	{#if history}
		<div
			class="grid min-h-0 flex-1 grid-cols-[minmax(240px,24rem)_1fr] max-[860px]:grid-cols-1 max-[860px]:grid-rows-2"
		>
			<nav
				class="min-h-0 border-r border-line max-[860px]:border-r-0 max-[860px]:border-b"
				aria-label="Changes, the newest first"
			>
				<LongList data={rows} getKey={(row) => row.key} style="height: 100%; padding-bottom: 24px">
					{#snippet children(row)}
						{#if 'day' in row}<h2 class="label pt-3 pb-1">{row.day}</h2>
						{:else if 'more' in row}<button class="word my-2" onclick={more}>earlier ones</button>
						{:else}
							<a
								class="block border-b border-line py-1 pr-3 pl-2 text-[13px] hover:bg-mist {row.span === span
									? 'bg-sheet shadow-[inset_3px_0_0_var(--color-ink)]'
									: ''}"
								href={hrefOf(row.span.number)}
								aria-current={row.span === span ? 'true' : undefined}
								><span class="flex items-baseline gap-2"
									><span class="data min-w-0 truncate">{titleOf(row.span)}</span>
									{#each row.span.marks as name (name)}<span class="data shrink-0 rounded bg-chip px-1">{name}</span
										>{/each}<span class="data ml-auto shrink-0 text-quiet">{row.span.number}</span></span
								><span class="block text-xs text-quiet">{timesOf(row.span)}</span></a
							>
						{/if}
					{/snippet}
				</LongList>
			</nav>
			<section class="min-h-0 overflow-auto py-3 pl-5 max-[860px]:pl-0" aria-label="The change">
				{#if at > history.newest}<p class="text-quiet">
						There is no revision {at}: the newest is {history.newest}.
						<a class="word" href="/{project().name}/history">look at it</a>
					</p>
				{:else if span}
					<div class="flex flex-wrap items-baseline gap-x-4 gap-y-2 pb-2">
						<h2 class="text-[15px] font-bold">Revision <span class="data">{span.number}</span></h2>
						{#each namesOf(span.number) as name (name)}<span class="data rounded bg-chip px-1.5"
								>{name}
								<button
									class="word soft ml-1 text-xs"
									aria-label="Take the name {name} away"
									onclick={() => unmark(name)}>take away</button
								></span
							>{/each}
						{#if span.at > 0}<span class="text-[13px] text-quiet">{new Date(span.at).toLocaleString()}</span>{/if}
						<span class="ml-auto flex flex-wrap items-center gap-3">
							{#if naming === undefined}<button class="word" onclick={() => (naming = '')}>name it</button>
							{:else}<form class="flex items-center gap-2" onsubmit={mark}>
									<!-- svelte-ignore a11y_autofocus -->
									<input
										class="field data w-40"
										aria-label="Name of revision {span.number}"
										placeholder="release-7"
										autofocus
										bind:value={naming}
										onkeydown={(event) => {
											if (event.key === 'Escape') naming = undefined;
										}}
									/><button class="press" disabled={!naming.trim()}>Name it</button>
								</form>{/if}
							{#if !isNewest}<button class="press" disabled={going} onclick={() => back(span.number)}
									>Go back to this</button
								>{/if}
						</span>
					</div>
					{#if nameTrouble && naming !== undefined}<p class="pb-2 text-[13px] text-fail" role="alert">
							{nameTrouble}
						</p>{/if}
					<label class="flex flex-wrap items-baseline gap-2 pb-2 text-[13px]"
						>compared with
						<select
							class="bare field-sizing-content min-h-6 cursor-pointer underline"
							aria-label="Compared with"
							value={String(against)}
							onchange={(event) => void goto(hrefOf(span.number, Number(event.currentTarget.value)))}
						>
							<option value="0">what was before it</option>
							{#if !isNewest}<option value={String(history.newest)}>the newest revision</option>{/if}
							{#each history.marks.filter(({ change }) => change !== span.number) as one (one.name)}<option
									value={String(one.change)}>{one.name} ({one.change})</option
								>{/each}
							{#if against !== 0 && against !== history.newest && !history.marks.some(({ change }) => change === against)}<option
									value={String(against)}>revision {against}</option
								>{/if}
						</select>{#if against > span.number}, which came later{/if}</label
					>
					{#if !compared}<p class="text-quiet" role="status">Looking…</p>
					{:else if compared.count === 0}<p class="border-t border-line py-2 text-quiet">No file differs.</p>
					{:else}<ul aria-label="Files that differ">
							{#each compared.changed as file (`${pairKey} ${file.path}`)}<ChangedFile
									{file}
									project={project().name}
									texts={() => textsOf(file.path)}
								>
									{#snippet acts()}<button
											class="word shrink-0"
											disabled={going}
											aria-label="Give {file.path} what it was before"
											onclick={() => back(pair![0], [file.path])}>as before</button
										>{/snippet}
								</ChangedFile>{/each}
							{#if compared.count > compared.changed.length}<li class="border-t border-line py-1 text-quiet">
									and {compared.count - compared.changed.length} more
								</li>{/if}
						</ul>{/if}
				{:else}<p class="text-quiet">Nothing has been written yet.</p>{/if}
			</section>
		</div>
	{/if}
</div>
