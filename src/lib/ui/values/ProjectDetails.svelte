<script lang="ts">
	import type { JsonObject } from '#core/model/json.ts';
	import Namespaces from '../common/Namespaces.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import type { Column, Matrix } from './matrix.svelte.ts';

	/** What the project’s own file says beside its values. */
	let { matrix, column }: { matrix: Matrix; column: Column } = $props();
	const project = useProject();
	const { document } = $derived(column);
	const value = $derived((document.value ?? {}) as JsonObject);
</script>

<section
	class="flex flex-wrap items-baseline gap-x-6 gap-y-2 border border-l-[3px] border-rule bg-sheet px-3.5 py-2 text-[13px]"
	aria-label="The project"
>
	<label class="flex items-baseline gap-2 text-quiet"
		>title
		<input
			class="field w-64 text-ink"
			aria-label="Title of the project"
			placeholder={project().name}
			value={String(value.title ?? '')}
			onchange={(event) =>
				matrix.say(document, 'title', event.currentTarget.value || undefined, 'the title of the project')}
		/></label
	>
	<label class="flex items-baseline gap-2"
		><input
			type="checkbox"
			class="checkbox h-3.5 w-3.5 self-center"
			checked={value.trace === true}
			onchange={(event) =>
				matrix.say(
					document,
					'trace',
					event.currentTarget.checked || undefined,
					'whether calls bear a traceparent field'
				)}
		/>calls bear a <span class="data">traceparent</span> field, which leads from the other side’s log back to run and step</label
	>
	<a class="word soft ml-auto text-xs" href="/{project().name}/text/heron.yaml">as text</a>
	<div class="flex w-full items-baseline gap-2">
		<span class="text-quiet" title="Namespaces by the prefix that XPaths use; a name without a prefix is found in any"
			>prefixes of XML</span
		>
		<div class="max-w-2xl min-w-0 flex-1">
			<Namespaces
				value={value.namespaces}
				onchange={(next) => matrix.say(document, 'namespaces', next, 'the prefixes of XML')}
			/>
		</div>
	</div>
</section>
