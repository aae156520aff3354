<script lang="ts">
	import {
		acceptDifferences,
		acceptXml,
		alike,
		approvedFile,
		approvedText,
		baselineFiles,
		compareApproved,
		dataOf,
		findVolatile,
		generalSelector,
		isBaselineName,
		isXmlText,
		type Alike,
		type Volatile
	} from '#core/baselines/index.ts';
	import { differenceSentence } from '#core/diff/index.ts';
	import { parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
	import { effectOf } from '#core/model/method.ts';
	import { generalXPath, xpathOf } from '#core/model/xml-data.ts';
	import { jsonPathOf } from '#core/selectors/index.ts';
	import { replyText } from '#core/model/view.ts';
	import { api, fileUrl, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { StoredReply } from '$lib/wire.ts';
	import { earlierAnswers } from './earlier.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	let {
		ledger,
		view,
		check,
		onclose,
		onwrite
	}: {
		ledger: Ledger;
		view: StepView;
		/** The check whose baseline this is; undefined for a new one. */
		check: JsonObject | undefined;
		onclose: () => void;
		onwrite: (check: JsonObject) => void;
	} = $props();
	const result = $derived(ledger.sending.resultOf(view));
	const reply = $derived(result?.exchanges.at(-1)?.reply);
	const environment = $derived(ledger.project.environment);
	// svelte-ignore state_referenced_locally
	let name = $state(String(check?.baseline ?? `${view.scenarioId}-${view.step.id}`));
	let ownOfEnvironment = $state(false);
	let text: string | undefined = $state();
	let approved: { path: string; text: string; revision: number } | undefined = $state.raw();
	let read = $state(false);
	let volatile: Volatile[] = $state.raw([]);
	let compared = $state(0);
	/** What is not to be ignored, of what was proposed. */
	let kept: Record<string, true> = $state.raw({});
	let trouble = $state('');
	const safe = $derived(effectOf(view.step.send?.method ?? 'GET') === 'safe');
	let sure = $state(false);

	const listOf = (value: Json | undefined): string[] => (Array.isArray(value) ? value.map(String) : []);
	const ignore = $derived(listOf(check?.ignore));
	const unordered = $derived(listOf(check?.unordered));

	const textOf = async ({ body, headers }: StoredReply): Promise<string> =>
		body ? replyText(await api.bytes(`/bodies/${body.hash}`), headers).text : '';

	// the approved answer, and what changed between the answers that came so far
	$effect(() => {
		const [now, last] = [reply, result];
		void ledger.project.overview.files;
		if (!now || !last) return;
		let current = true;
		read = false;
		void (async () => {
			try {
				const received = await textOf(now);
				const path = baselineFiles(name, environment).find((one) => ledger.project.overview.files.includes(one));
				const found = path ? await readFile(path) : undefined;
				const before = await earlierAnswers(
					ledger.project.name,
					last.scenario,
					last.step,
					last.exchanges.at(-1)!.startedAt
				).catch(() => []);
				const like = before.filter(
					(one) => one.environment === environment && one.reply.status === now.status && one.row === last.row?.number
				);
				const texts = await Promise.all(like.slice(0, 4).map((one) => textOf(one.reply)));
				if (!current) return;
				text = received;
				approved = found;
				compared = texts.length + 1;
				volatile =
					received === ''
						? []
						: findVolatile(
								[...texts.reverse(), received].map(dataOf),
								isXmlText(received) ? generalXPath : generalSelector
							);
				read = true;
				trouble = '';
			} catch (error) {
				if (current) trouble = messageOf(error);
			}
		})();
		return () => (current = false);
	});
	async function readFile(path: string) {
		const url = fileUrl(ledger.project.name, path);
		const { revision } = await api.get<{ revision: number }>(url);
		return {
			path,
			revision,
			text: new TextDecoder().decode(await api.bytes(`${fileUrl(ledger.project.name, path)}?raw`))
		};
	}
	const proposed = $derived(volatile.filter(({ selector, order }) => !(order ? unordered : ignore).includes(selector)));
	const xml = $derived(text !== undefined && isXmlText(text));
	const pathOf = $derived(xml ? xpathOf : jsonPathOf);
	const groups = $derived.by((): Alike[] => {
		if (!approved || text === undefined) return [];
		try {
			return alike(compareApproved(approved, text, { ignore, unordered }), xml ? generalXPath : generalSelector);
		} catch (error) {
			trouble = messageOf(error);
			return [];
		}
	});

	async function save(path: string, content: string, revision: number) {
		await api.upload(`${fileUrl(ledger.project.name, path)}?revision=${revision}`, new Blob([content]));
		await ledger.project.reload();
	}
	const withList = (given: JsonObject, key: string, list: string[]): JsonObject => {
		const { [key]: _, ...rest } = given;
		return list.length > 0 ? { ...rest, [key]: list } : rest;
	};
	async function approve() {
		if (text === undefined) return;
		try {
			const path = approvedFile(name, text, ownOfEnvironment ? environment : '');
			const known = ledger.project.overview.files.includes(path);
			const revision = known ? (await readFile(path)).revision : 0;
			await save(path, approvedText(text), revision);
			const taken = proposed.filter((one) => !kept[one.selector]);
			const of = (order: boolean) => taken.filter((one) => one.order === order).map((one) => one.selector);
			let next: JsonObject = { ...(check ?? {}), baseline: name };
			next = withList(next, 'ignore', [...ignore, ...of(false)]);
			next = withList(next, 'unordered', [...unordered, ...of(true)]);
			onwrite(next);
			toasts.show(`${path} is what this answer is compared with from now on.`);
			onclose();
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	async function accept(group: Alike | undefined) {
		if (!approved || text === undefined) return;
		try {
			const content =
				group && approved.path.endsWith('.json')
					? `${writeJson(acceptDifferences(parseJson(approved.text), parseJson(text), group.differences), 2)}\n`
					: group && xml
						? acceptXml(approved.text, text, group.differences)
						: approvedText(text);
			await save(approved.path, content, approved.revision);
			ledger.judgeAnew();
			if (!group || groups.length === 1) {
				toasts.show(`${approved.path} is brought up to this answer.`);
				onclose();
			}
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	function overlook(group: Alike) {
		if (!check) return;
		const key = group.kind === 'moved' ? 'unordered' : 'ignore';
		const selector = group.kind === 'moved' ? group.selector.replace(/\[\*\]$/, '') : group.selector;
		onwrite(withList(check, key, [...listOf(check[key]), selector]));
	}
	const WORDS = { added: 'new', removed: 'gone', changed: 'changed', moved: 'moved' } as const;
	const REASONS: Record<Volatile['reason'], string> = {
		time: 'a time',
		id: 'an identifier',
		token: 'a token',
		counter: 'a counter',
		order: 'the order changes',
		value: 'it changes'
	};
</script>

<section class="mt-3 border-t border-rule pt-2" aria-label="Baseline">
	<div class="flex items-baseline gap-3">
		<h4 class="label">{approved && check ? 'Differences to the baseline' : 'Approve as baseline'}</h4>
		<button class="word soft ml-auto" onclick={onclose}>close</button>
	</div>
	{#if trouble}<p class="note mt-1" role="alert">{trouble}</p>{/if}
	{#if !read}<p class="py-1 text-quiet" role="status">reading…</p>
	{:else if approved && check}
		<p class="py-1 text-xs text-quiet">
			<span class="data">{approved.path}</span>{groups.length === 0 ? ': the answer is the same' : ''}
		</p>
		<ul aria-label="Differences to the baseline">
			{#each groups as group (`${group.kind} ${group.selector}`)}
				{@const first = group.differences[0]!}
				<li class="border-b border-line py-1 text-[13px]">
					<span class="flex items-baseline gap-3">
						<span class="text-quiet">{WORDS[group.kind]}</span>
						<span class="data min-w-0 truncate"
							>{group.differences.length > 1 ? group.selector : differenceSentence(first, 60, pathOf)}</span
						>
						<span class="ml-auto flex shrink-0 gap-3">
							<button class="word" onclick={() => accept(group)}
								>{group.differences.length > 1 ? `accept these ${group.differences.length}` : 'accept'}</button
							>
							<button class="word soft" onclick={() => overlook(group)}>ignore</button>
						</span>
					</span>
					{#if group.differences.length > 1}<span class="data block truncate pl-2 text-quiet"
							>{group.differences
								.slice(0, 3)
								.map((one) => differenceSentence(one, 30, pathOf))
								.join('; ')}{group.differences.length > 3 ? ' …' : ''}</span
						>{/if}
				</li>
			{/each}
		</ul>
		{#if groups.length > 0}<p class="mt-2">
				<button class="press" onclick={() => accept(undefined)}>Approve the whole answer</button>
			</p>{/if}
	{:else}
		<label class="mt-1 flex items-baseline gap-2 text-[13px]"
			>its name <input class="field data" bind:value={name} aria-invalid={!isBaselineName(name)} /></label
		>
		{#if !isBaselineName(name)}<p class="text-xs text-fail" role="alert">
				A name is made of letters, digits, _ . and -, and begins with a letter or digit.
			</p>{/if}
		{#if environment}<label class="mt-1 flex items-center gap-1.5 text-[13px]"
				><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={ownOfEnvironment} /> for {environment} alone</label
			>{/if}
		{#if proposed.length > 0}
			<p class="mt-2 text-[13px]">Different each time, in the last {compared} answers; to be ignored:</p>
			<ul aria-label="Proposed to be ignored">
				{#each proposed as one (`${one.order} ${one.selector}`)}<li>
						<label class="flex min-h-6 items-center gap-2 text-[13px]"
							><input
								type="checkbox"
								class="checkbox h-3.5 w-3.5"
								checked={!kept[one.selector]}
								onchange={(event) => {
									const { [one.selector]: _, ...rest } = kept;
									kept = event.currentTarget.checked ? rest : { ...rest, [one.selector]: true };
								}}
							/> <span class="data">{one.selector}</span><span class="text-quiet">{REASONS[one.reason]}</span>
						</label>
					</li>{/each}
			</ul>
		{:else}<p class="mt-2 text-[13px] text-quiet">
				{compared > 1
					? `Nothing changed in the last ${compared} answers.`
					: 'This is the first answer: send it once more to find what changes each time.'}
			</p>{/if}
		<p class="mt-2 flex items-center gap-3">
			<button class="press go" disabled={!isBaselineName(name) || text === undefined} onclick={approve}
				>Approve this answer</button
			>
			{#if safe || sure}<button
					class="press"
					disabled={ledger.sending.isSending(view)}
					onclick={() => ledger.sendStep(view)}>Send once more and compare</button
				>
			{:else}<button class="word soft" onclick={() => (sure = true)}
					>{view.step.send?.method} may change something: send it once more all the same</button
				>{/if}
		</p>
	{/if}
</section>
