<script lang="ts">
	import { counted } from '#core/messages.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { api, messageOf } from '../common/api.ts';
	import { keepSecret } from '../common/secrets.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import { readPasted } from './paste.ts';

	/** @property given where the steps go, and the text, when there is one already */
	let { ledger, given, onclose }: { ledger: Ledger; given: NonNullable<Ledger['pasting']>; onclose: () => void } =
		$props();
	const { project } = $derived(ledger);
	// svelte-ignore state_referenced_locally
	let text = $state(given.text);
	let busy = $state(false);
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
	const nameOf = (name: string) => (names[name] ?? name).trim() || name;
	const wrong = $derived(secrets.find(({ name }) => !/^[A-Za-z_]\w*$/.test(nameOf(name))));

	/** A document with the names that were chosen. */
	function renamed(value: JsonObject): JsonObject {
		const changed = JSON.stringify(value).replace(
			/\{\$secret\.(\w+)\}/g,
			(_, name: string) => `{$secret.${nameOf(name)}}`
		);
		return changed === JSON.stringify(value) ? value : (JSON.parse(changed) as JsonObject);
	}
	async function make(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		try {
			for (const { path, value } of fresh)
				await api.put(`/projects/${project.name}/files/${path}`, { value: renamed(value), revision: 0 });
			for (const { name, value } of secrets) await keepSecret(project, '', nameOf(name), value);
			if (fresh.length > 0) await project.reload();
			// what the collection says already need not be said by the step
			const usual = given.scenario.connection || ledger.connection;
			const [first] = read.steps;
			if (!usual && first) ledger.document.set(['connection'], first.connection, 'choosing a connection');
			const through = usual || first?.connection;
			const scenario = ledger.scenarios[given.scenario.index]!;
			const steps = read.steps.map(({ step, connection }) => ({
				...renamed(step),
				...(connection === through ? {} : { connection })
			}));
			ledger.addSteps(scenario, given.at, steps, given.replaced);
			onclose();
			const kept = secrets.filter(({ value }) => value !== '').length;
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

<dialog class="plain w-[46rem] max-w-[95vw]" {@attach show} {onclose} aria-label="Paste a call">
	<form class="px-5 py-4" onsubmit={make}>
		<h2 class="text-[15px] font-bold">{given.replaced > 0 ? 'This step becomes the call' : 'Paste a call'}</h2>
		<p class="pt-1 text-[13px] text-quiet">
			A command of curl, an address, or a request as it is sent. It is read here and goes nowhere.
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
		{#if secrets.length > 0}
			<p class="pt-2 text-[13px]">What is secret goes into the vault, and the step refers to it by name:</p>
			<table class="mt-1 text-[13px]" aria-label="Secrets of the call">
				<tbody>
					{#each secrets as { name, value, where } (name)}
						<tr class="align-baseline"
							><td class="pr-3 text-quiet">{where}</td><td class="pr-3"
								><input
									class="field data w-64"
									aria-label="Name of the secret in {where}"
									value={names[name] ?? name}
									oninput={(event) => (names[name] = event.currentTarget.value)}
								/></td
							><td class="text-quiet">{value === '' ? 'a variable of the shell: it has no value yet' : ''}</td></tr
						>
					{/each}
				</tbody>
			</table>
			{#if wrong}<p class="text-[13px] text-fail" role="alert">
					"{nameOf(wrong.name)}" cannot be a name: letters, digits and _ can.
				</p>{/if}
		{/if}
		{#each notes as note (note)}<p class="pt-1 text-[13px]"><span class="text-quiet">note</span> {note}</p>{/each}
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
