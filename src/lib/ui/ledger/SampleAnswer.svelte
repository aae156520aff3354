<script lang="ts">
	import { readSampleAnswer, type SampleAnswer } from '#core/exchange/index.ts';
	import { messageOf } from '../common/api.ts';

	/** An answer as a text of a document or a log, from which checks are suggested before anything is sent. */
	let { onread }: { onread: (found: SampleAnswer | undefined) => void } = $props();
	let text = $state('');
	let trouble = $state('');
	function read() {
		trouble = '';
		if (text.trim() === '') return onread(undefined);
		try {
			onread(readSampleAnswer(text));
		} catch (error) {
			onread(undefined);
			trouble = messageOf(error);
		}
	}
</script>

<label class="mt-1.5 block text-xs text-quiet"
	>an answer of the documentation: its body as JSON or XML, or the whole of it with its status line
	<textarea
		class="field data mt-1 w-full text-ink"
		rows="6"
		{@attach (field) => field.focus()}
		spellcheck="false"
		aria-label="A sample answer"
		aria-invalid={trouble !== ''}
		bind:value={text}
		oninput={read}></textarea></label
>
{#if trouble}<p class="text-xs text-fail" role="alert">{trouble}</p>{/if}
