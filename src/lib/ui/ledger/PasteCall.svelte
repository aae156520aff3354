<script lang="ts">
	import { counted } from '#core/messages.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { messageOf } from '../common/api.ts';
	import { toasts, undoable } from '../common/toast.svelte.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import { readPasted } from '../exchange/paste.ts';
	import { placeBeside, renamed, wrongName } from '../exchange/placing.ts';
	import RecordingDialog from '../exchange/RecordingDialog.svelte';
	import SecretNames from '../exchange/SecretNames.svelte';

	/** @property given where the steps go, and the text, when there is one already */
	let { ledger, given, onclose }: { ledger: Ledger; given: NonNullable<Ledger['pasting']>; onclose: () => void } =
		$props();
	const { project } = $derived(ledger);
	// svelte-ignore state_referenced_locally
	let text = $state(given.text);
	let busy = $state(false);
	let recording: File | undefined = $state.raw();
	/** Other names for secrets than those that suggest themselves. */
	let names: Record<string, string> = $state({});

	const read = $derived(
		readPasted(text, {
			...{ files: project.overview.files, connections: project.overview.connections },
			...{ secrets: project.secrets, values: project.values }
		})
	);
	const secrets = $derived(read.steps.flatMap((one) => one.secrets));
	const notes = $derived([...new Set(read.steps.flatMap((one) => one.notes))]);
	const fresh = $derived(read.steps.flatMap((one) => one.documents));
	const wrong = $derived(wrongName(secrets, names));

	/** What the collection says already need not be said by the steps. */
	function addSteps(made: { step: JsonObject; connection: string }[], replaced = given.replaced) {
		const usual = given.scenario.connection || ledger.connection;
		const [first] = made;
		if (!usual && first) ledger.document.set(['connection'], first.connection, 'choosing a connection');
		const through = usual || first?.connection;
		const scenario = ledger.scenarios[given.scenario.index]!;
		const steps = made.map(({ step, connection }) => ({ ...step, ...(connection === through ? {} : { connection }) }));
		ledger.addSteps(scenario, given.at, steps, replaced);
	}
	async function make(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		// as it was read when the names were seen: once they are in the vault, it would be read with other ones
		const { steps } = read;
		const kept = secrets.filter(({ value }) => value !== '').length;
		try {
			await placeBeside(project, fresh, secrets, names);
			addSteps(steps.map(({ step, connection }) => ({ step: renamed(step, names), connection })));
			onclose();
			toasts.show(
				`${counted(steps.length, 'step')} made${kept > 0 ? `; ${counted(kept, 'secret')} put into the vault` : ''}.`
			);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
		}
	}
	const show = (node: HTMLDialogElement) => node.showModal();
</script>

{#if recording}<RecordingDialog
		{project}
		file={recording}
		ids={given.scenario.steps.map(({ step }) => step.id)}
		into="the scenario “{given.scenario.title || given.scenario.id}”"
		onmake={(steps) => {
			const undo = undoable(ledger.document, () => addSteps(steps, 0));
			toasts.show(`${counted(steps.length, 'step')} made.`, 'note', undo);
		}}
		{onclose}
	/>
{:else}
	<dialog class="plain w-[46rem] max-w-[95vw]" {@attach show} {onclose} aria-label="Paste a call">
		<form class="px-5 py-4" onsubmit={make}>
			<h2 class="text-[15px] font-bold">{given.replaced > 0 ? 'This step becomes the call' : 'Paste a call'}</h2>
			<p class="pt-1 text-[13px] text-quiet">
				A command of curl, an address, or a request as it is sent. It is read here and goes nowhere.
				{#if given.replaced === 0}<label class="word cursor-pointer"
						>or a browser’s recording (HAR)<input
							type="file"
							class="sr-only"
							accept=".har,.json"
							aria-label="A browser’s recording"
							onchange={(event) => (recording = event.currentTarget.files?.[0])}
						/></label
					>{/if}
			</p>
			<textarea
				class="field data mt-2 h-36 w-full resize-y whitespace-pre"
				aria-label="The call"
				spellcheck="false"
				placeholder={"curl -X POST https://api.reedmere.example/bookings \\\n  -H 'Content-Type: application/json' -d '{\"nights\": 2}'"}
				bind:value={text}></textarea>
			{#if read.trouble}<p class="note mt-2" role="alert">{read.trouble}</p>{/if}
			{#each read.steps as { step, connection }, index (index)}
				<p class="pt-1 text-[13px]">
					<span class="data font-bold">{step.send}</span> <span class="text-quiet">through</span>
					{connection}{fresh.some(({ path }) => path === `connections/${connection}.yaml`)
						? ', a new connection'
						: ''}{step.credential ? `, as ${String(step.credential)}` : ''}
				</p>
			{/each}
			<SecretNames {secrets} bind:names />
			{#each notes as note, index (index)}<p class="pt-1 text-[13px]">
					<span class="text-quiet">note</span>
					{note}
				</p>{/each}
			<p class="flex gap-3 pt-3">
				<button class="press go" disabled={read.steps.length === 0 || busy || wrong !== undefined}
					>{read.steps.length > 1
						? `Make ${read.steps.length} steps`
						: given.replaced > 0
							? 'Make it this step'
							: 'Make the step'}</button
				>
				<button type="button" class="press" onclick={onclose}>Leave it</button>
			</p>
		</form>
	</dialog>
{/if}
