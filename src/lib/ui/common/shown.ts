/** A document on the screen. */
interface Shown {
	readonly project: string;
	readonly path: string;
	refresh(): Promise<void>;
}

/** Documents that are on the screen, or were. */
const shown = new Set<WeakRef<Shown>>();

export const isShown = (document: Shown): void => void shown.add(new WeakRef(document));

/**
 * Files were changed elsewhere: documents on the screen follow, but for what is being typed.
 * @param paths those that were changed; left out, any may have been
 */
export async function refreshShown(project: string, paths?: readonly string[]): Promise<void> {
	const stale: Promise<void>[] = [];
	for (const one of shown) {
		const document = one.deref();
		if (!document) shown.delete(one);
		else if (document.project === project && (!paths || paths.includes(document.path)))
			stale.push(document.refresh().catch(() => {}));
	}
	await Promise.all(stale);
}
