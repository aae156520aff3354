<script lang="ts">
	import { jsonFault } from '#core/lint/index.ts';
	import { parseJson, same, writeJson, type Json } from '#core/model/json.ts';
	import CodeField from './CodeField.svelte';

	let { value, onchange, label }: { value: Json; onchange: (value: Json) => void; label: string } = $props();

	// What was typed stays as it was typed; the document gets data when it is JSON, else the text itself.
	let typed: { text: string; value: Json } | undefined = $state.raw();
	const text = $derived(
		typed && same(typed.value, value) ? typed.text : typeof value === 'string' ? value : writeJson(value, 2)
	);
	// expressions outside quotes are fine: they are written as JSON when it is sent
	const fault = $derived(jsonFault(text));
	const wrong = $derived(fault ? `not JSON yet: line ${fault.line}, column ${fault.column}: ${fault.message}` : '');

	function change(next: string) {
		let data: Json = next;
		try {
			const parsed = parseJson(next);
			if (typeof parsed !== 'string') data = parsed;
		} catch {
			// kept as text until it is JSON
		}
		typed = { text: next, value: data };
		onchange(data);
	}
</script>

<CodeField value={text} language="json" lines {label} problem={wrong} onchange={change} />
