<script lang="ts">
	import { isObject, writeJson, type JsonObject } from '#core/model/json.ts';
	import { compileXmlPlaces } from '#core/model/xml-data.ts';
	import { parseYaml } from '#core/model/yaml.ts';
	import { singularPath } from '#core/selectors/index.ts';
	import { kindOf } from '#core/steps/index.ts';
	import { inferSchema, suggestChecks, type Answered, type Suggestion } from '#core/suggest/index.ts';
	import { stringify } from 'yaml';
	import { openBody } from '../answer/reader.ts';
	import { api, fileUrl, messageOf } from '../common/api.ts';
	import { focusAdded } from '../common/focus-added.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import Baseline from './Baseline.svelte';
	import CheckItem from './CheckItem.svelte';
	import Verdicts from './Verdicts.svelte';
	import { firstCheck } from './check.ts';
	import { useJudged } from './judged.svelte.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import { earlierAnswers } from './earlier.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const kind = $derived(kindOf(view.step));
	/** Whether checks stand in the step as a list of their own; others say what they check in other ways, or check nothing. */
	const listed = $derived(kind.fields.some(({ name }) => name === 'checks'));
	const checks = $derived(Array.isArray(view.raw.checks) ? (view.raw.checks as JsonObject[]) : []);
	/** Those that are checks at all: a list that was typed may hold anything. */
	const readable = $derived(checks.filter(isObject));
	const result = $derived(ledger.sending.resultOf(view));
	const reply = $derived(result?.exchanges.at(-1)?.reply);
	const judged = useJudged(
		() => ledger,
		() => view
	);
	const verdicts = $derived(judged.found?.checks ?? result?.checks ?? []);
	const schemas = $derived(ledger.project.overview.files.filter((path) => path.startsWith('schemas/')));

	const write = (list: JsonObject[], label?: string) =>
		ledger.setStep(view, ['checks'], list.length > 0 ? list : undefined, label);
	const put = (index: number, check: JsonObject | undefined) =>
		write(check ? checks.map((one, at) => (at === index ? check : one)) : checks.filter((_, at) => at !== index));

	// the same as text
	let asText = $state(false);
	let typed: string | undefined = $state();
	const text = $derived(typed ?? (checks.length > 0 ? stringify(checks, { lineWidth: 0 }) : ''));
	let problem = $state('');
	function type(next: string) {
		typed = next;
		const { value, problems } = parseYaml('', next);
		if (problems.length > 0) return void (problem = `line ${problems[0]!.line}: ${problems[0]!.message}`);
		if (value !== null && !Array.isArray(value))
			return void (problem = 'a list is wanted: each check begins with a dash');
		problem = '';
		write((value ?? []) as JsonObject[], 'the checks as text');
	}

	// what the answer suggests
	const file = $derived(`schemas/${view.scenarioId}-${view.step.id}.json`);
	let answered: { now: Answered; earlier: Answered[] } | undefined = $state.raw();
	$effect(() => {
		const [now, scenario, step] = [reply, result?.scenario, result?.step];
		const startedAt = result?.exchanges.at(-1)?.startedAt ?? 0;
		answered = undefined;
		if (!now || !scenario || !step) return;
		let current = true;
		const read = async ({ status, headers, body }: typeof now): Promise<Answered> => {
			const reading = body && body.size < 2_000_000 ? await openBody(body, headers) : undefined;
			const { data, fault } = reading ?? {};
			return { status, headers, ...(data === undefined ? {} : { data }), ...(fault ? { fault } : {}) };
		};
		void (async () => {
			const before = await earlierAnswers(ledger.project.name, scenario, step, startedAt).catch(() => []);
			const here = before.filter(({ environment }) => environment === ledger.project.environment).slice(0, 5);
			const [first, ...rest] = await Promise.all([now, ...here.map((one) => one.reply)].map(read));
			if (current) answered = { now: first!, earlier: rest };
		})();
		return () => (current = false);
	});
	/** An answer that somebody brought, where none came yet. */
	let sample: Answered | undefined = $state.raw();
	let bringing = $state(false);
	$effect(() => {
		// what came says more than what was brought
		if (reply) bringing = false;
	});
	const looked = $derived(answered ?? (bringing && sample ? { now: sample, earlier: [] } : undefined));
	const soap = $derived(view.step.send?.body?.kind === 'soap');
	const defined = $derived(soap || judged.found?.operation !== undefined);
	const suggestions = $derived(
		looked
			? suggestChecks({ ...looked.now, soap, defined }, looked.earlier, readable as JsonObject[], file, () =>
					inferSchema(
						[looked!.now, ...looked!.earlier]
							.filter(({ status, data }) => status === looked!.now.status && data !== undefined)
							.map(({ data }) => data!)
					)
				)
			: []
	);
	let all = $state(false);
	const FIRST = 5;
	async function take({ check, schema }: Suggestion) {
		if (schema) {
			try {
				const url = fileUrl(ledger.project.name, file);
				const known = ledger.project.overview.files.includes(file);
				const revision = known ? (await api.get<{ revision: number }>(url)).revision : 0;
				await api.upload(`${url}?revision=${revision}`, new Blob([`${writeJson(schema, '\t')}\n`]));
				await ledger.project.reload();
			} catch (error) {
				return toasts.show(messageOf(error), 'trouble');
			}
		}
		write([...checks, check], 'adding a check');
	}
	/** The first place of an answer in XML that an XPath means. */
	async function xmlPlace(selector: string): Promise<(string | number)[] | undefined> {
		try {
			// opened for this alone: what suggestions are made of may come later than somebody's press
			const reading = reply?.body && (await openBody(reply.body, reply.headers));
			return compileXmlPlaces(selector)(reading?.data ?? null)[0];
		} catch {
			// what is more than a path has no place to be shown
			return undefined;
		}
	}
	async function jump(selector: string) {
		const path = selector.startsWith('/') ? await xmlPlace(selector) : singularPath(selector);
		if (path) ledger.showPlace(view, path);
	}
	/** The baseline that is being approved or compared; its check's place, or -1 for a new one. */
	let baseline: number | undefined = $state();
</script>

<div class="flex items-baseline gap-3">
	<h3 class="label">Checks</h3>
	{#if listed && judged.found && checks.length > 0}<span class="text-xs text-quiet"
			>tried on the answer that is here</span
		>{/if}
	{#if listed}<button
			class="word soft ml-auto"
			aria-pressed={asText}
			onclick={() => {
				asText = !asText;
				typed = undefined;
				problem = '';
			}}>{asText ? 'as sentences' : 'as text'}</button
		>{/if}
</div>
{#if !listed}
	{#if (result?.checks ?? []).length > 0}<Verdicts verdicts={result!.checks} />
	{:else}<p class="mt-2 text-quiet">
			{kind.checks || kind.judges ? 'Nothing has been checked yet.' : 'A step of this kind checks nothing itself.'}
		</p>{/if}
{:else if asText}
	<textarea
		class="field data mt-1 w-full"
		rows={Math.max(6, text.split('\n').length + 1)}
		aria-label="Checks as text"
		spellcheck="false"
		value={text}
		oninput={(event) => type(event.currentTarget.value)}></textarea>
	{#if problem}<p class="text-xs text-fail" role="alert">{problem}</p>{/if}
	{#each ledger.problemsOf(view).filter(({ path }) => path.includes('checks')) as problem, index (index)}<p
			class="text-xs text-fail"
		>
			{problem.message}
		</p>{/each}
{:else}
	{#if checks.length === 0}<p class="mt-2 text-quiet">
			Nothing is checked yet. Choose a value in the answer and check it, or take what the answer suggests.
		</p>{/if}
	<ol class="mt-1" aria-label="Checks">
		{#each checks as check, index (index)}
			{#if isObject(check)}<CheckItem
					{check}
					{index}
					{schemas}
					operation={judged.found?.operation}
					verdicts={verdicts.filter((verdict) => verdict.index === index)}
					onput={(next) => put(index, next)}
					onshow={(selector) => void jump(selector)}
					{...Object.hasOwn(check, 'baseline') ? { onbaseline: () => (baseline = index) } : {}}
				/>
			{:else}<li class="flex min-h-6 items-baseline gap-3 border-b border-line py-1 text-[13px]">
					<span class="text-fail"
						>a check is wanted, such as status: 200; this is <span class="data">{writeJson(check)}</span></span
					>
					<button class="word soft ml-auto" onclick={() => put(index, undefined)}>remove it</button>
				</li>{/if}
		{/each}
	</ol>
	{#each verdicts.filter((check) => check.index < 0) as missing, index (index)}
		<p class="py-1 text-[13px] text-fail">
			{missing.subject === 'until'
				? `${missing.expected}: ${missing.received}`
				: `${missing.subject}: ${missing.error ?? `nothing matches ${missing.expected.replace('a value at ', '')}`}`}
		</p>
	{/each}
	<p class="mt-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
		<button
			class="word soft"
			onclick={(event) =>
				focusAdded(event, 'What check ', () => write([...checks, firstCheck(checks.length === 0 ? 'status' : 'body')]))}
			>add a check</button
		>
		{#if reply && baseline === undefined}<button class="word soft" onclick={() => (baseline = -1)}
				>approve as baseline</button
			>{/if}
		{#if !reply}<button class="word soft" aria-expanded={bringing} onclick={() => (bringing = !bringing)}
				>{bringing ? 'without a sample' : 'from a sample answer'}</button
			>{/if}
	</p>
	{#if bringing && !reply}{#await import('./SampleAnswer.svelte') then { default: SampleAnswer }}<SampleAnswer
				onread={(found) => (sample = found)}
			/>{/await}{/if}
	{#if suggestions.length > 0}
		<div class="mt-2 border-t border-line pt-1.5">
			<p class="text-xs text-quiet">{answered ? 'the answer suggests' : 'the sample suggests'}</p>
			<ul aria-label="Suggested checks">
				{#each all ? suggestions : suggestions.slice(0, FIRST) as suggestion (suggestion.text)}<li
						class="flex min-h-6 items-baseline gap-3"
					>
						<button class="word data min-w-0 truncate text-left" onclick={() => take(suggestion)}
							>{suggestion.text}</button
						>
						<span class="ml-auto shrink-0 text-xs text-quiet">{suggestion.why}</span>
					</li>{/each}
			</ul>
			{#if suggestions.length > FIRST && !all}<button class="word soft" onclick={() => (all = true)}
					>{suggestions.length - FIRST} more</button
				>{/if}
		</div>
	{/if}
{/if}
{#if baseline !== undefined && reply}<Baseline
		{ledger}
		{view}
		check={checks[baseline]}
		onclose={() => (baseline = undefined)}
		onwrite={(check) => {
			if (baseline === -1) write([...checks, check], 'approving a baseline');
			else put(baseline!, check);
		}}
	/>{/if}
