<script lang="ts">
	import { show } from '#core/checks/index.ts';
	import { typeName } from '#core/model/json.ts';
	import CodeField from '../editor/CodeField.svelte';
	import { tryExpression, type Tried } from '../editor/try.ts';
	import { useProject } from '../shell/project.svelte.ts';

	const project = useProject();
	let text = $state('');
	let result: Tried | undefined = $state.raw();
	$effect(() => {
		const { name, environment } = project();
		void project().values;
		const wanted = text.trim();
		if (!wanted) return void (result = undefined);
		let current = true;
		const timer = setTimeout(() => {
			void tryExpression(name, { text: wanted, environment }).then((found) => current && (result = found));
		}, 250);
		return () => {
			current = false;
			clearTimeout(timer);
		};
	});
</script>

<div class="grid max-w-4xl grid-cols-[1fr_1fr] items-start gap-4 pt-1 pb-2">
	<CodeField
		value={text}
		bare
		lines
		label="An expression to try"
		placeholder={'$uppercase($env.clerk), or a text with {$…} in it'}
		onchange={(next) => (text = next)}
	/>
	<p class="data min-w-0 pt-1 break-all" role="status" aria-label="What it gives">
		{#if !result}<span class="font-sans text-[13px] text-quiet"
				>what it gives in {project().environment || 'no environment'} shows here as you type</span
			>
		{:else if result.trouble !== undefined}<span class="text-fail">{result.trouble}</span>
		{:else}{show(result.value, 2000)} <span class="text-quiet">{typeName(result.value)}</span>{/if}
	</p>
</div>
