/** Opens a popover below what it belongs to, at its right edge, and within the window. */
export function showBelow(menu: HTMLElement | undefined, opener: HTMLElement | undefined): void {
	if (!menu || !opener) return;
	const at = opener.getBoundingClientRect();
	menu.showPopover();
	menu.style.top = `${Math.min(at.bottom + 4, innerHeight - menu.offsetHeight - 8)}px`;
	menu.style.left = `${Math.max(at.right - menu.offsetWidth, 8)}px`;
}
