<script lang="ts">
	import { isObject, type JsonObject } from '#core/model/json.ts';
	import { parseYaml } from '#core/model/yaml.ts';
	import { stringify } from 'yaml';

	/** An entry of a list as it stands in its file; what cannot be read yet stays typed, and is told. */
	let { value, label, onput }: { value: JsonObject; label: string; onput: (next: JsonObject) => void } = $props();
	let typed: string | undefined = $state();
	let problem = $state('');
	const text = $derived(typed ?? stringify(value, { lineWidth: 0 }));
	function type(next: string) {
		typed = next;
		const { value: read, problems } = parseYaml('', next);
		if (problems.length > 0) return void (problem = `line ${problems[0]!.line}: ${problems[0]!.message}`);
		if (!isObject(read)) return void (problem = 'keys with values are wanted');
		problem = '';
		onput(read as JsonObject);
	}
</script>

<div class="px-3.5 pb-2">
	<textarea
		class="field data mt-1 w-full"
		rows={Math.min(30, Math.max(8, text.split('\n').length + 1))}
		aria-label={label}
		spellcheck="false"
		value={text}
		oninput={(event) => type(event.currentTarget.value)}></textarea>
	{#if problem}<p class="text-xs text-fail" role="alert">{problem}</p>{/if}
</div>
