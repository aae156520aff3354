import { tick } from 'svelte';
import type { VListHandle } from 'virtua/svelte';
import { focusCell } from '../common/cells.ts';
import type { Column } from './matrix.svelte.ts';
import type { Row } from './rows.ts';

const NAME_WIDTH = 230;
const WIDTH = 150;
/** Rows have settled when nothing has moved for so many frames; more frames than that are not waited for, however long one takes. */
const [CALM_FRAMES, MOST_FRAMES] = [4, 120];
/** From so many columns on only those in sight are drawn. */
const MANY = 9;

export const cellId = (name: string, column: string): string => `cell-${name}-${column}`;

/** What scrolls up and down around an element. */
function scrollerOf(element: Element): Element | undefined {
	for (let at = element.parentElement; at; at = at.parentElement)
		if (/auto|scroll/.test(getComputedStyle(at).overflowY) && at.scrollHeight > at.clientHeight) return at;
	return undefined;
}

/** Which columns are in sight, and how a cell comes there. */
export class Sight {
	viewport: HTMLElement | undefined = $state();
	list: VListHandle | undefined = $state();
	/** How far it is scrolled to the right, and how much room there is, in CSS pixels. */
	left = $state(0);
	room = $state(1280);
	readonly #columns: () => readonly Column[];
	/** How many cells are being brought into sight. */
	#going = 0;
	/** What is to stay where it is while rows settle. */
	#held: { element: Element; top: number } | undefined;

	constructor(columns: () => readonly Column[]) {
		this.#columns = columns;
	}

	readonly #range = $derived.by(() => {
		const { length } = this.#columns();
		if (length < MANY) return { from: 0, to: length };
		const from = Math.max(0, Math.floor(this.left / WIDTH) - 1);
		return { from, to: Math.min(length, from + Math.ceil(this.room / WIDTH) + 2) };
	});
	readonly shown = $derived.by(() => this.#columns().slice(this.#range.from, this.#range.to));
	readonly grid = $derived.by(() => {
		const { length } = this.#columns();
		return length < MANY
			? `grid-template-columns: ${NAME_WIDTH}px 0 repeat(${length}, minmax(${WIDTH}px, 1fr))`
			: `grid-template-columns: ${NAME_WIDTH}px ${this.#range.from * WIDTH}px repeat(${this.shown.length}, ${WIDTH}px)`;
	});
	readonly width = $derived.by(() => `min-width: ${NAME_WIDTH + this.#columns().length * WIDTH}px`);

	/** Brings a cell into sight and gives it the focus. @param rows the rows as they are at any moment */
	async goTo(rows: () => readonly Row[], name: string | undefined, column: Column | undefined): Promise<void> {
		if (name === undefined || !column) return;
		// nothing stays where it is: the list goes elsewhere
		this.#held = undefined;
		this.#going += 1;
		await this.#bring(rows, name, column).finally(() => (this.#going -= 1));
	}
	async #bring(rows: () => readonly Row[], name: string, column: Column): Promise<void> {
		const { viewport } = this;
		if (this.#columns().length >= MANY && viewport) {
			const at = this.#columns().indexOf(column) * WIDTH;
			if (at < viewport.scrollLeft || at + WIDTH > viewport.scrollLeft + this.room - NAME_WIDTH) {
				viewport.scrollLeft = Math.max(0, at - WIDTH);
				this.left = viewport.scrollLeft;
				await tick();
			}
		}
		await focusCell(cellId(name, column.name), () => {
			const at = rows().findIndex((row) => row.kind === 'variable' && row.name === name);
			if (at >= 0) this.list?.scrollToIndex(at, { align: 'nearest' });
		});
	}

	/** Notes where what has the focus stands; the function that is given has it stand there again. */
	hold(): (() => void) | undefined {
		const element = document.activeElement;
		const { viewport } = this;
		if (this.#going > 0 || !element || !viewport?.contains(element)) return undefined;
		// rows that change again before they have settled: where it stood at first counts
		const top = this.#held?.element === element ? this.#held.top : element.getBoundingClientRect().top;
		const held = (this.#held = { element, top });
		return () => {
			const scroller = scrollerOf(element);
			let [calm, frames] = [0, 0];
			const letGo = () => {
				viewport.removeEventListener('wheel', letGo);
				if (this.#held === held) this.#held = undefined;
			};
			// rows that come or go above are measured over some frames
			const settle = () => {
				if (this.#held !== held || document.activeElement !== element) return letGo();
				const moved = element.getBoundingClientRect().top - top;
				calm = Math.abs(moved) > 1 ? 0 : calm + 1;
				// not by the list: what it cannot reach yet it would try again when this has long settled
				if (calm === 0) scroller?.scrollBy({ top: moved, behavior: 'instant' });
				if (calm < CALM_FRAMES && ++frames < MOST_FRAMES) requestAnimationFrame(settle);
				else letGo();
			};
			viewport.addEventListener('wheel', letGo, { passive: true });
			requestAnimationFrame(settle);
		};
	}
}
