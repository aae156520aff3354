/** A PDF document that is drawn page by page. */
export interface Pdf {
	pages: number;
	/** Draws a page on a canvas, `width` CSS pixels wide; gives the text that stands on it. */
	draw(number: number, canvas: HTMLCanvasElement, width: number): { done: Promise<string>; stop(): void };
	close(): void;
}

/** More than that is for a program of its own. */
const MOST_BYTES = 30_000_000;
/** A canvas of more pixels than that is not drawn. */
const MOST_PIXELS = 20_000_000;

/**
 * Opens a document; the library and its worker are loaded when first asked for. Scripts, forms and links in it are left alone.
 * @throws Error in words
 */
export async function openPdf(bytes: Uint8Array): Promise<Pdf> {
	if (bytes.length > MOST_BYTES) throw new Error('it has more than 30 MB');
	const [library, { default: workerSrc }] = await Promise.all([
		import('pdfjs-dist'),
		import('pdfjs-dist/build/pdf.worker.min.mjs?url')
	]);
	library.GlobalWorkerOptions.workerSrc = workerSrc;
	const loading = library.getDocument({
		// the worker takes its bytes away
		data: bytes.slice(),
		isEvalSupported: false,
		enableXfa: false,
		disableFontFace: true,
		useSystemFonts: true,
		useWasm: false,
		verbosity: 0
	});
	loading.onPassword = () => {
		void loading.destroy();
	};
	const document = await loading.promise.catch((error: unknown) => {
		throw new Error(
			error instanceof library.InvalidPDFException ? 'it is no PDF that can be read' : 'it is locked, or broken',
			{
				cause: error
			}
		);
	});
	return {
		pages: document.numPages,
		draw(number, canvas, width) {
			let stop = () => {};
			const done = (async () => {
				const page = await document.getPage(number);
				const plain = page.getViewport({ scale: 1 });
				const ratio = window.devicePixelRatio || 1;
				const wanted = (width / plain.width) * ratio;
				const scale = Math.min(wanted, Math.sqrt(MOST_PIXELS / (plain.width * plain.height)));
				const viewport = page.getViewport({ scale });
				canvas.width = Math.ceil(viewport.width);
				canvas.height = Math.ceil(viewport.height);
				canvas.style.width = `${width}px`;
				const task = page.render({ canvas, viewport, annotationMode: library.AnnotationMode.DISABLE });
				stop = () => task.cancel();
				await task.promise;
				const { items } = await page.getTextContent();
				return items.map((item) => ('str' in item ? item.str : '')).join(' ');
			})();
			return { done, stop: () => stop() };
		},
		close: () => void loading.destroy()
	};
}
