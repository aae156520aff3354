// Until the page is alive it is inert, and a press goes nowhere: what was pressed is noted, and pressed when it can answer.
(() => {
	const CONTROLS = 'button, a[href], summary, label, input, select, textarea';
	/** Who pressed longer ago does not wait for it any more. Milliseconds. */
	const LONGEST = 8000;
	let pressed;
	const inert = () => [...document.querySelectorAll('[inert]')];
	const note = ({ clientX, clientY }) => {
		const asleep = inert();
		for (const one of asleep) one.inert = false;
		const control = document.elementFromPoint(clientX, clientY)?.closest(CONTROLS);
		for (const one of asleep) one.inert = true;
		pressed = control && { control, at: performance.now() };
	};
	addEventListener('click', note, true);
	addEventListener(
		'alive',
		() => {
			removeEventListener('click', note, true);
			const { control, at } = pressed ?? {};
			if (!control?.isConnected || control.matches(':disabled') || performance.now() - at > LONGEST) return;
			control.focus({ preventScroll: true });
			if (!control.matches('select, textarea, input:not([type=checkbox], [type=radio])')) control.click();
		},
		{ once: true }
	);
})();
