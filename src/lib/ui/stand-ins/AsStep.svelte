<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { idOfCall, receivingStep, sendingStep } from '#core/stand-in/to-step.ts';
	import type { CallRecord } from '$lib/wire.ts';
	import { messageOf } from '../common/api.ts';
	import { changeScenarios } from '../common/collection.ts';
	import { freeName } from '../common/edit.ts';
	import { keepSecret } from '../common/secrets.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';

	/** A call in the log becomes a step: one that sends it, or one that waits for it and checks it. */
	let {
		project,
		call,
		address,
		onclose
	}: {
		project: ProjectState;
		call: CallRecord;
		/** Of the stand-in that it came to, with its base. */
		address: string;
		onclose: () => void;
	} = $props();

	const FRESH = '';
	const stoodIn = $derived(project.stoodIn.filter(([, by]) => by === call.standIn).map(([connection]) => connection));
	const collections = $derived(project.collections);
	/** The one that speaks with the stand-in already, where there is one. */
	const usual = $derived(
		(collections.find((one) => stoodIn.includes(one.connection ?? '')) ?? collections[0])?.name ?? ''
	);
	let chosenCollection: string | undefined = $state();
	let chosenScenario: string | undefined = $state();
	let kind: 'send' | 'receive' = $state('send');
	let busy = $state(false);
	const collection = $derived(chosenCollection ?? usual);
	const scenarios = $derived(collections.find(({ name }) => name === collection)?.scenarios ?? []);
	const scenario = $derived(chosenScenario ?? scenarios.at(-1)?.id ?? FRESH);

	/** Where no connection leads to the stand-in its own address does. */
	function elsewhere({ send }: JsonObject): string {
		const [method, path = ''] = String(send).split(' ');
		const name = /^[A-Za-z_]\w*$/.test(call.standIn) ? call.standIn : `\`${call.standIn}\``;
		return `${method} {$env.standIns.${name}}${path}`;
	}
	async function add() {
		busy = true;
		const base = new URL(address).pathname.replace(/\/+$/, '');
		const path = call.target.split('?')[0]!.slice(call.target.startsWith(base) ? base.length : 0);
		const [through = ''] = stoodIn;
		try {
			const made = sendingStep(call, address, new Set(project.secrets));
			if (kind === 'send') for (const { name, value } of made.secrets) await keepSecret(project, '', name, value);
			await changeScenarios(project, collection, ({ whole, scenarios: list, ids }) => {
				const at = list.find((one) => isObject(one) && one.id === scenario) as JsonObject | undefined;
				const steps = (at && Array.isArray(at.steps) ? at.steps : []) as Json[];
				const taken = steps.flatMap((one) => (isObject(one) ? [String(one.id)] : []));
				const id = freeName(idOfCall(call, path), taken);
				const connection: JsonObject = through && whole.connection !== through ? { connection: through } : {};
				const step: JsonObject =
					kind === 'receive'
						? { id, ...receivingStep(call, base) }
						: { id, ...made.step, ...(through ? connection : { send: elsewhere(made.step) }) };
				const home = at ? String(at.id) : freeName('from-the-log', ids);
				return {
					scenarios: at
						? list.map((one) => (one === at ? { ...at, steps: [...steps, step] } : one))
						: [...list, { id: home, title: 'From the log', steps: [step] }],
					message: `It is the step ${id} of ${collection}/${home}.`
				};
			});
			onclose();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
		}
	}
</script>

{#if collections.length === 0}<p class="mt-1 text-[13px] text-quiet">
		There is no collection yet that it could stand in: <a class="word soft" href="/{project.name}/collections"
			>make one first</a
		>.
	</p>
{:else}
	<form
		class="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1 border-y border-line py-1 text-[13px]"
		aria-label="A step of this call"
		onsubmit={(event) => {
			event.preventDefault();
			void add();
		}}
	>
		<select class="bare field-sizing-content cursor-pointer" aria-label="What the step does" bind:value={kind}>
			<option value="send">sends this call</option>
			<option value="receive">waits for such a call and checks it</option>
		</select>
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">in</span><select
				class="bare field-sizing-content max-w-56 cursor-pointer"
				aria-label="Collection that it is put into"
				value={collection}
				onchange={(event) => {
					chosenCollection = event.currentTarget.value;
					chosenScenario = undefined;
				}}
			>
				{#each collections as one (one.name)}<option value={one.name}>{one.title || one.name}</option>{/each}
			</select></label
		>
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">at the end of</span><select
				class="bare field-sizing-content max-w-56 cursor-pointer"
				aria-label="Scenario that it is put into"
				value={scenario}
				onchange={(event) => (chosenScenario = event.currentTarget.value)}
			>
				{#each scenarios as one, index (index)}<option value={one.id}>{one.title || one.id}</option>{/each}
				<option value={FRESH}>a new scenario</option>
			</select></label
		>
		<button class="press" disabled={busy}>Add the step</button>
		<a class="word soft" href="/{project.name}/collections/{collection}#{scenario}">see {collection}</a>
		<button type="button" class="word soft ml-auto" onclick={onclose}>close</button>
	</form>
{/if}
