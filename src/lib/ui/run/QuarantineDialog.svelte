<script lang="ts">
	import { fails } from '#core/checks/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { isDay, isHttp } from '#core/model/shape.ts';
	import { QUARANTINE_FILE } from '#core/documents/quarantine.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** Writes down that a failure is known, until a day. */
	let { step, onclose }: { step: StoredStep; onclose(): void } = $props();
	const project = useProject();
	const failing = $derived(step.checks.filter(fails).filter(({ error, index }) => error === undefined && index >= 0));
	const inAFortnight = new Date(Date.now() + 14 * 86_400_000).toISOString().slice(0, 10);
	let what: 'checks' | 'step' | 'scenario' = $state('step');
	let why = $state('');
	let who = $state('');
	let link = $state('');
	let until = $state(inAFortnight);
	let tried = $state(false);
	let working = $state(false);
	const today = new Date().toISOString().slice(0, 10);
	const wrong = $derived({
		why: why.trim() === '' ? 'say what is known of it' : '',
		until: !isDay(until) ? 'a day is wanted' : until < today ? 'that day has passed' : '',
		link: link.trim() !== '' && !isHttp(link.trim()) ? 'an address is wanted, such as https://tracker.example/4711' : ''
	});

	const show = (node: HTMLDialogElement) => node.showModal();
	async function write() {
		tried = true;
		if (Object.values(wrong).some(Boolean)) return;
		working = true;
		const path = `/projects/${project().name}/files/${QUARANTINE_FILE}`;
		const entry: JsonObject = {
			scenario: step.scenario,
			...(what === 'scenario' ? {} : { step: step.step }),
			...(what === 'checks' ? { checks: failing.map(({ index }) => index + 1) } : {}),
			why: why.trim(),
			...(who.trim() ? { who: who.trim() } : {}),
			...(link.trim() ? { link: link.trim() } : {}),
			until
		};
		try {
			const there = project().overview.files.includes(QUARANTINE_FILE);
			const { value, revision } = there
				? await api.get<{ value: Json; revision: number }>(path)
				: { value: { heron: 1 } as Json, revision: 0 };
			// what somebody is fixing as text is not written over
			if (!isObject(value)) throw new Error(`${QUARANTINE_FILE} cannot be read at present: mend it first`);
			const before = Array.isArray(value.failures) ? (value.failures as Json[]) : [];
			await api.put(path, { value: { ...(value as JsonObject), failures: [...before, entry] }, revision });
			await project().reload();
			toasts.show(`In quarantine until ${until}: from the next run on it stops no pipeline. Suites lists it.`);
			onclose();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			working = false;
		}
	}
</script>

<dialog class="plain" {@attach show} {onclose} aria-label="Put in quarantine">
	<form
		class="grid grid-cols-[90px_1fr] items-baseline gap-x-3 gap-y-2 px-5 py-4"
		onsubmit={(event) => {
			event.preventDefault();
			void write();
		}}
	>
		<h2 class="col-span-2">{step.title || step.step} is known to fail</h2>
		<p class="col-span-2 text-[13px] text-quiet">
			It runs and is reported as before. Until the day is over it stops no pipeline; then it counts again.
		</p>
		<span class="text-quiet">what</span>
		<span class="flex flex-col gap-0.5">
			<label><input type="radio" name="what" value="step" bind:group={what} /> this step, whatever fails in it</label>
			{#if failing.length > 0}<label
					><input type="radio" name="what" value="checks" bind:group={what} />
					{failing.length === 1 ? 'this check alone' : `these ${failing.length} checks alone`}:
					<span class="data">{failing.map(({ subject }) => subject).join(', ')}</span></label
				>{/if}
			<label><input type="radio" name="what" value="scenario" bind:group={what} /> all of its scenario</label>
		</span>
		<label class="contents"
			><span class="text-quiet">why</span><textarea class="field" rows="2" bind:value={why}></textarea></label
		>
		{#if tried && wrong.why}<p class="col-start-2 text-[13px] text-fail">{wrong.why}</p>{/if}
		<label class="contents"
			><span class="text-quiet">until</span><input
				class="field w-44"
				type="date"
				min={today}
				bind:value={until}
			/></label
		>
		{#if tried && wrong.until}<p class="col-start-2 text-[13px] text-fail">{wrong.until}</p>{/if}
		<label class="contents"
			><span class="text-quiet">who</span><input
				class="field"
				placeholder="who looks after it"
				bind:value={who}
			/></label
		>
		<label class="contents"
			><span class="text-quiet">link</span><input class="field" placeholder="https://…" bind:value={link} /></label
		>
		{#if tried && wrong.link}<p class="col-start-2 text-[13px] text-fail">{wrong.link}</p>{/if}
		<p class="col-span-2 flex justify-end gap-3 pt-1">
			<button type="button" class="press" onclick={onclose}>Cancel</button>
			<button class="press go" disabled={working}>Put in quarantine</button>
		</p>
	</form>
</dialog>
