// A press is a pointer that goes down and up on one control. On a slow machine the page moves in between: a reply comes
// and adds a line above, the field that was left takes its hint away. The browser then drops the click without a word.

const CONTROLS =
	'button, a[href], summary, label, input[type=checkbox], input[type=radio], [role=button], [role=tab], [role=option], [role=treeitem]';
/** As far as a hand that means one place moves, in CSS pixels. */
const STILL = 8;
/** The longest that replies wait for a press to end, in milliseconds. */
const LONGEST = 800;

interface Press {
	control: HTMLElement;
	tag: string;
	name: string;
	x: number;
	y: number;
	pointer: number;
	/** The browser has told the control of it. */
	landed: boolean;
}

let press: Press | undefined;
const waiting: (() => void)[] = [];
let timer: ReturnType<typeof setTimeout> | undefined;

const controlAt = (target: EventTarget | null): HTMLElement | null =>
	target instanceof Element ? target.closest<HTMLElement>(CONTROLS) : null;
const nameOf = (control: HTMLElement): string => control.getAttribute('aria-label') ?? control.textContent.trim();

function letGo(): void {
	clearTimeout(timer);
	timer = undefined;
	for (const go of waiting.splice(0)) go();
}

/** The control that was pressed, or the one that was drawn in its place since. */
function successor({ control, tag, name }: Press): HTMLElement | undefined {
	if (control.isConnected) return control;
	if (control.id) return document.getElementById(control.id) ?? undefined;
	const same = [...document.querySelectorAll<HTMLElement>(tag)].filter((one) => nameOf(one) === name);
	return same.length === 1 ? same[0] : undefined;
}

/** Resolves at once when nothing is pressed, else when it is let go: what moves the page waits for that. */
export const released = (): Promise<void> =>
	timer === undefined ? Promise.resolve() : new Promise((resolve) => waiting.push(resolve));

/** Makes presses count although the page moves under them; gives a function that ends it. */
export function keepPresses(): () => void {
	const down = (event: PointerEvent) => {
		const control = event.isPrimary && event.button === 0 ? controlAt(event.target) : null;
		press = undefined;
		if (!control) return;
		const { tagName: tag } = control;
		const { clientX: x, clientY: y, pointerId: pointer } = event;
		press = { control, tag, name: nameOf(control), x, y, pointer, landed: false };
		timer ??= setTimeout(letGo, LONGEST);
	};
	const up = (event: PointerEvent) => {
		const begun = press;
		const { clientX, clientY, pointerId, ctrlKey, metaKey, shiftKey, altKey } = event;
		// the browser's own click comes first
		setTimeout(() => {
			letGo();
			if (!begun || begun !== press) return;
			press = undefined;
			const near = Math.abs(clientX - begun.x) <= STILL && Math.abs(clientY - begun.y) <= STILL;
			if (begun.landed || begun.pointer !== pointerId || !near) return;
			const control = successor(begun);
			if (!control || control.matches(':disabled')) return;
			const keys = { ctrlKey, metaKey, shiftKey, altKey };
			control.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true, detail: 1, ...keys }));
		});
	};
	const click = (event: MouseEvent) => {
		if (press && event.target instanceof Node && press.control.contains(event.target)) press.landed = true;
	};
	const cancel = () => {
		press = undefined;
		letGo();
	};
	addEventListener('pointerdown', down, true);
	addEventListener('pointerup', up, true);
	addEventListener('click', click, true);
	addEventListener('pointercancel', cancel, true);
	return () => {
		removeEventListener('pointerdown', down, true);
		removeEventListener('pointerup', up, true);
		removeEventListener('click', click, true);
		removeEventListener('pointercancel', cancel, true);
		cancel();
	};
}
