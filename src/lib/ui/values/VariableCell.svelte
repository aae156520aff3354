<script lang="ts">
	import { onDestroy, tick } from 'svelte';
	import { pastedBlock, stepOf } from '../common/cells.ts';
	import { toasts, undoable } from '../common/toast.svelte.ts';
	import CodeField from '../editor/CodeField.svelte';
	import { showCell, typeOfCell } from './cell.ts';
	import type { Column, Matrix } from './matrix.svelte.ts';
	import { cellId } from './sight.svelte.ts';

	let {
		matrix,
		name,
		column,
		ongo,
		onopen
	}: {
		matrix: Matrix;
		name: string;
		column: Column;
		/** Gives the focus to the cell so many rows and columns further; to this one by 0 and 0. */
		ongo: (rows: number, columns: number) => Promise<void>;
		/** Shows the details of the variable. */
		onopen: () => void;
	} = $props();
	const label = $derived(`${name} in ${column.name || 'the project'}`);
	const own = $derived(matrix.own(name, column));
	const gap = $derived(matrix.isGap(name, column));
	const here = $derived(matrix.here(name, column));
	/** The text has become an expression: names are completed while it is written. */
	let writing: { text: string; caret: number } | undefined = $state();

	// a row that is scrolled out of sight takes what was written along
	onDestroy(() => {
		// but one that is gone, with its variable, does not bring it back
		if (writing && matrix.names.includes(name)) matrix.set(name, column, writing.text);
	});

	function move(event: KeyboardEvent & { currentTarget: HTMLInputElement }) {
		const { currentTarget: cell, key } = event;
		if (key === 'Enter' && (event.ctrlKey || event.metaKey)) {
			event.preventDefault();
			const undo = undoable(matrix, () => matrix.fill(name, cell.value));
			return toasts.show(`${name} is the same in every environment.`, 'note', undo);
		}
		if (key === 'F2') {
			event.preventDefault();
			onopen();
			const field = `[aria-label="Value of ${name} in ${column.name || 'the project'}"]`;
			return void tick().then(() => document.querySelector<HTMLElement>(field)?.focus());
		}
		if (key === 'Escape') {
			cell.value = showCell(own);
			return cell.select();
		}
		const step = stepOf(event);
		if (!step) return;
		event.preventDefault();
		void ongo(step[0], step[1]);
	}
	function type(event: Event & { currentTarget: HTMLInputElement }) {
		const { value, selectionStart } = event.currentTarget;
		if (value.includes('{$')) writing = { text: value, caret: selectionStart ?? value.length };
	}
	/** Takes what was written over, and goes on to another row or back to the cell. */
	async function endWriting(end: 'take' | 'leave', rows = 0) {
		const written = writing;
		if (!written) return;
		writing = undefined;
		if (end === 'take') matrix.set(name, column, written.text);
		await tick();
		if (rows !== 0 || end === 'leave') await ongo(rows, 0);
	}
	function writingKeys(event: KeyboardEvent & { currentTarget: HTMLElement }) {
		if (event.ctrlKey || event.metaKey || !['Enter', 'Escape'].includes(event.key)) return;
		// the list of names takes these keys while it is open
		if (event.currentTarget.querySelector('.cm-content[aria-controls]')) return;
		event.preventDefault();
		event.stopPropagation();
		if (event.key === 'Enter') void endWriting('take', event.shiftKey ? -1 : 1);
		else void endWriting('leave');
	}
	function paste(event: ClipboardEvent) {
		const text = pastedBlock(event);
		if (text === undefined) return;
		let pasted = { written: 0, left: 0 };
		const undo = undoable(matrix, () => (pasted = matrix.paste(name, column, text)));
		const { written, left } = pasted;
		toasts.show(
			`${written} ${written === 1 ? 'cell' : 'cells'} pasted${left > 0 ? `; ${left} had no row or column to go to` : ''}.`,
			'note',
			undo
		);
	}
</script>

<span class="mr-2 block min-w-0"
	>{#if writing}<span
			role="presentation"
			class="block"
			onkeydowncapture={writingKeys}
			onfocusout={() => void endWriting('take')}
			><CodeField
				value={writing.text}
				caret={writing.caret}
				{label}
				onchange={(text) => writing && (writing.text = text)}
			/></span
		>{:else}<input
			id={cellId(name, column.name)}
			class="bare data w-full {here !== undefined && column.name ? 'text-quiet! line-through' : ''}"
			style={gap ? 'background: var(--fail-wash)' : ''}
			class:text-err={own !== undefined && typeof own !== 'string'}
			aria-label={label}
			title={own === undefined ? '' : typeOfCell(own)}
			placeholder={gap ? 'gap' : showCell(matrix.holds(name, column)).slice(0, 200)}
			value={showCell(own)}
			data-before={showCell(own)}
			onchange={(event) => !writing && matrix.set(name, column, event.currentTarget.value)}
			oninput={type}
			onkeydown={move}
			onpaste={paste}
		/>{/if}{#if here !== undefined && column.name}<span
			class="data block truncate px-0.5 text-xs"
			title="on this machine alone"><span class="chip font-sans">here</span> {showCell(here)}</span
		>{/if}</span
>
