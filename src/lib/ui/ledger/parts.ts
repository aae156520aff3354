import { lazy } from '../common/lazy.svelte.ts';

/** What a ledger needs when something in it is opened: editors and readers of answers. */
export const drawerPart = lazy(() => import('./Drawer.svelte'));
export const inOutPart = lazy(() => import('./InOut.svelte'));
export const exchangePart = lazy(() => import('../answer/Exchange.svelte'));

/** Fetches them when the page has nothing else to do. */
export function fetchPartsInTime(): () => void {
	const parts = [drawerPart, exchangePart, inOutPart];
	const handle = requestIdleCallback(() => parts.forEach((part) => part.fetch()), { timeout: 3000 });
	return () => cancelIdleCallback(handle);
}
