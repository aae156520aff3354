import type { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter';

/** Dragging is fetched as soon as the page is alive: nobody drags before. */
const adapter = async () => {
	await new Promise((resolve) => setTimeout(resolve));
	return import('@atlaskit/pragmatic-drag-and-drop/element/adapter');
};

/** Runs once the adapter is here, unless the element has gone by then; gives what undoes it. */
function later(attach: (found: Awaited<ReturnType<typeof adapter>>) => () => void): () => void {
	let undo: (() => void) | undefined;
	let gone = false;
	void adapter().then((found) => {
		if (!gone) undo = attach(found);
	});
	return () => {
		gone = true;
		undo?.();
	};
}

/** Makes an element one that is dragged. */
export const dragged = (settings: Parameters<typeof draggable>[0]): (() => void) =>
	later((found) => found.draggable(settings));
/** Makes an element one that something is dropped on. */
export const dropTarget = (settings: Parameters<typeof dropTargetForElements>[0]): (() => void) =>
	later((found) => found.dropTargetForElements(settings));
