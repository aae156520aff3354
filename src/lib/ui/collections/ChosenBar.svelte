<script lang="ts">
	import { counted } from '#core/messages.ts';
	import { saveWorkflows } from './workflows.ts';
	import type { CollectionList } from './collections.svelte.ts';

	/** What can be done with the scenarios that are chosen. */
	let { list, onrun }: { list: CollectionList; onrun: (targets: string[]) => void } = $props();
	let tag = $state('');
	let removing = $state(false);
	const keys = $derived([...list.chosen]);
	const others = $derived(list.project.collections);
	const infos = $derived(
		others.flatMap(({ name, scenarios }) => scenarios.filter(({ id }) => list.chosen.has(`${name}/${id}`)))
	);
	const tags = $derived([...new Set(infos.flatMap((one) => one.tags))].sort());
	const someOff = $derived(infos.some(({ off }) => off));
	const someOn = $derived(infos.some(({ off }) => !off));
	const it = $derived(keys.length === 1 ? 'it' : 'them');

	function addTag(event: SubmitEvent) {
		event.preventDefault();
		if (tag.trim()) void list.change({ do: 'tag', tag: tag.trim() }, `tagged ${tag.trim()}`).then(() => (tag = ''));
	}
</script>

<div
	class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-mist px-3 py-2 text-[13px]"
	role="toolbar"
	aria-label="Chosen scenarios"
>
	<span class="font-semibold" role="status">{counted(keys.length, 'scenario')} chosen</span>
	<button class="press go" onclick={() => onrun(keys)}>Run {it}</button>
	<form class="flex items-center gap-2" onsubmit={addTag}>
		<input class="field data w-28" aria-label="Tag them with" placeholder="tag" bind:value={tag} list="chosen-tags" />
		<datalist id="chosen-tags"
			>{#each list.tags as one (one)}<option value={one}></option>{/each}</datalist
		>
		<button class="press" disabled={!tag.trim()}>Tag {it}</button>
	</form>
	{#if tags.length > 0}<span class="flex items-baseline gap-2 text-quiet"
			>tagged {#each tags as one (one)}<button
					class="word"
					aria-label="Take the tag {one} from {it}"
					onclick={() => list.change({ do: 'untag', tag: one }, `no longer tagged ${one}`)}
					>{one} <span aria-hidden="true">×</span></button
				>{/each}</span
		>{/if}
	<label class="flex items-center gap-2"
		>move to
		<select
			class="field max-w-44"
			aria-label="Move to the collection"
			value=""
			onchange={(event) => {
				const to = event.currentTarget.value;
				event.currentTarget.value = '';
				if (to) void list.change({ do: 'move', to }, `moved to ${to}`);
			}}
		>
			<option value="">…</option>
			{#each others as one (one.name)}<option value={one.name}>{one.title}</option>{/each}
		</select></label
	>
	<button class="word" onclick={() => list.change({ do: 'duplicate' }, 'duplicated')}>duplicate</button>
	{#if someOn}<button class="word" onclick={() => list.change({ do: 'off' }, 'switched off')}>switch off</button>{/if}
	{#if someOff}<button class="word" onclick={() => list.change({ do: 'on' }, 'switched on')}>switch on</button>{/if}
	<button
		class="word"
		title="an Arazzo document with the definitions that it speaks of, as a ZIP"
		onclick={() => void saveWorkflows(list.project.name, keys)}>as workflows</button
	>
	{#if removing}<span class="flex items-center gap-3"
			>Delete {it} with all steps?
			<button
				class="word"
				onclick={() => {
					removing = false;
					void list.change({ do: 'delete' }, 'deleted');
				}}>yes, delete {it}</button
			><button class="word soft" onclick={() => (removing = false)}>no</button></span
		>
	{:else}<button class="word" onclick={() => (removing = true)}>delete</button>{/if}
	<button class="word soft ml-auto" onclick={() => list.chooseNone()}>choose none</button>
</div>
