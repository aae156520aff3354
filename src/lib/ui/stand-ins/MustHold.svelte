<script lang="ts">
	import { requestChecks, type CheckResult } from '#core/checks/index.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { focusAdded } from '../common/focus-added.ts';
	import CheckItem from '../ledger/CheckItem.svelte';
	import { firstMust } from './first-must.ts';

	/** Checks that must hold of a request. */
	let {
		must,
		schemas,
		verdicts = [],
		subject,
		onput
	}: {
		must: JsonObject[];
		/** Paths of the project's schemas. */
		schemas: string[];
		verdicts?: CheckResult[];
		/** What a check that is added looks at. */
		subject: string;
		onput: (must: JsonObject[]) => void;
	} = $props();
</script>

<ol aria-label="What must hold">
	{#each must as check, index (index)}<CheckItem
			{check}
			{index}
			{schemas}
			verdicts={verdicts.filter((verdict) => verdict.index === index)}
			kinds={requestChecks}
			first={firstMust}
			onput={(next) =>
				onput(next ? must.map((one, i) => (i === index ? next : one)) : must.filter((_, i) => i !== index))}
			onshow={() => {}}
		/>{/each}
</ol>
<button
	class="word soft mt-1"
	onclick={(event) => focusAdded(event, 'What check ', () => onput([...must, firstMust(subject)]))}>add a check</button
>
