<script lang="ts">
	import type { JsonObject } from '#core/model/json.ts';
	import { pastedBlock } from '../common/cells.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import Datasets from './Datasets.svelte';
	import { NAME, type Column, type Matrix } from './matrix.svelte.ts';
	import TryLine from './TryLine.svelte';

	let {
		matrix,
		wanted = '',
		ongo,
		onsecret
	}: {
		matrix: Matrix;
		/** A variable that is not there yet, and that somebody came for. */
		wanted?: string;
		/** A variable was added: there its value is written. */
		ongo: (name: string, column: Column) => void;
		/** A secret was named, and wants its value. */
		onsecret: (name: string) => void;
	} = $props();
	const project = useProject();
	const columns = $derived(matrix.columns);
	let fresh = $state('');
	let freshSecret = $state('');
	$effect(() => {
		if (wanted) fresh = wanted;
	});
	const exampleValue = '{$env.host}/v1';
	const isFit = (name: string): boolean => {
		if (NAME.test(name)) return true;
		toasts.show(`“${name}” cannot be a name: letters, digits and _ can.`, 'trouble');
		return false;
	};

	function addVariable(event: SubmitEvent) {
		event.preventDefault();
		const name = fresh.trim();
		if (!isFit(name)) return;
		if (matrix.names.includes(name)) return toasts.show(`${name} is there already.`);
		const home = columns.find((column) => column.name === project().environment) ?? columns[0]!;
		matrix.write([{ name, column: home, value: '' }], `adding ${name}`);
		fresh = '';
		// what is looked for may leave it out
		if (!matrix.rows.includes(name)) {
			matrix.search = '';
			matrix.only = 'all';
		}
		ongo(name, home);
	}
	function pasteRows(event: ClipboardEvent) {
		const text = pastedBlock(event);
		if (text === undefined) return;
		const wrong = matrix.addBlock(text);
		if (wrong.length > 0)
			toasts.show(`Left out, because it cannot be a name: ${wrong.slice(0, 5).join(', ')}`, 'trouble');
	}
	const secretsOf = (document: DocumentState): string[] => {
		const value = document.value as JsonObject | null;
		return Array.isArray(value?.secrets) ? value.secrets.map(String) : [];
	};
	function addSecret(event: SubmitEvent) {
		event.preventDefault();
		const name = freshSecret.trim();
		if (!isFit(name)) return;
		const document = columns.find((column) => column.name === project().environment)?.document;
		if (document && !secretsOf(document).includes(name))
			document.set(['secrets'], [...secretsOf(document), name], `naming ${name}`);
		freshSecret = '';
		onsecret(name);
	}
</script>

{#if matrix.names.length === 0}<p class="py-4 text-quiet">
		No variable yet. Name the base address first, then each environment has its own.
	</p>
{:else if matrix.rows.length === 0}<p class="py-4 text-quiet">
		{matrix.only === 'gaps' ? 'No gap: every variable has a value in every environment.' : 'Nothing like it here.'}
	</p>{/if}
<div class="flex gap-6 py-3">
	<form class="flex items-center gap-2" onsubmit={addVariable}>
		<input
			id="new-variable"
			class="field w-48"
			placeholder="name, or paste rows"
			aria-label="Name of a new variable"
			bind:value={fresh}
			onpaste={pasteRows}
		/><button class="press" disabled={!fresh.trim()}>Add a variable</button>
	</form>
	<form class="flex items-center gap-2" onsubmit={addSecret}>
		<input class="field w-48" placeholder="name" aria-label="Name of a new secret" bind:value={freshSecret} /><button
			class="press"
			disabled={!freshSecret.trim() || !project().environment}>Name a secret of {project().environment}</button
		>
	</form>
</div>
<h2 class="label border-t border-rule pt-2">Try an expression</h2>
<TryLine />
<h2 class="label border-t border-rule pt-2">Datasets</h2>
<Datasets />
<p class="max-w-3xl pt-4 pb-6 text-[13px] text-quiet">
	An empty cell takes the project’s value; a block from a spreadsheet is pasted from the cell on. Values of secrets are
	never in a file: they lie encrypted in the vault of this server, and the vault wins over variables such as
	<span class="data">HERON_SECRET_CLERK_PASSWORD</span> of its process. A value may use others:
	<span class="data">{exampleValue}</span>.
</p>
