import { HeronError } from '#core/errors.ts';
import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { XPathAnswer, XPathBegin, XPathOrder } from './xpath.worker.ts';

const program = async (): Promise<string> => (await import('./xpath.worker.ts?nodeworker')).default;

/** What one expression may take, in milliseconds. */
const XPATH_LIMIT_MS = 5000;
/** As long as the thread may take to begin and to read the document: a busy machine needs that. */
const BEGINS_WITHIN_MS = 60_000;
/** Documents below it are looked through at once, whatever is asked, in characters. */
const SMALL = 20_000;

/**
 * Whether an expression may look at every element for every element: it goes through the document more than once.
 * The library cannot be interrupted, so such a one is carried out where it can be ended.
 */
export const isHeavy = (expression: string, text: string): boolean =>
	text.length > SMALL &&
	(expression.match(/\/\/|\b(?:preceding|following|ancestor|descendant)[a-z-]*\s*::/g) ?? []).length > 1;

/** A document in a thread of its own, which a slow expression ends. */
export function openApart(text: string): {
	xpath(expression: string, namespaces: Record<string, string>, markup: boolean): Promise<XPathAnswer>;
	close(): void;
} {
	let worker: Worker | undefined;
	let last: Promise<unknown> = Promise.resolve();
	const drop = () => {
		void worker?.terminate();
		worker = undefined;
	};
	const start = (source: string): Worker => {
		const library =
			process.env.HERON_XML_LIBRARY ?? pathToFileURL(createRequire(import.meta.url).resolve('libxml2-wasm')).href;
		const made = new Worker(source, { eval: true, execArgv: [], env: {}, workerData: { library } });
		made.postMessage({ text } satisfies XPathOrder);
		return made;
	};
	const one = (source: string, expression: string, namespaces: Record<string, string>, markup: boolean) =>
		new Promise<XPathAnswer>((resolve, reject) => {
			const here = (worker ??= start(source));
			const finish = (act: () => void, broken = false) => {
				clearTimeout(timer);
				here.removeAllListeners('message').removeAllListeners('error').removeAllListeners('exit');
				here.on('error', () => {});
				if (broken) drop();
				act();
			};
			const slow = () =>
				finish(
					() =>
						reject(
							new HeronError('selector.slow', { selector: expression, limit: `${XPATH_LIMIT_MS / 1000} s of looking` })
						),
					true
				);
			let timer = setTimeout(slow, BEGINS_WITHIN_MS);
			const failed = (error: unknown) => finish(() => reject(error as Error), true);
			here.on('message', (answer: XPathAnswer | XPathBegin) => {
				if (!('started' in answer)) return finish(() => resolve(answer));
				clearTimeout(timer);
				timer = setTimeout(slow, XPATH_LIMIT_MS);
			});
			here.once('error', failed);
			here.once('exit', (code) => failed(new Error(`the XML library ended with ${code}`)));
			here.postMessage({ expression, namespaces, markup } satisfies XPathOrder);
		});
	return {
		xpath(expression, namespaces, markup) {
			const next = last.then(async () => one(await program(), expression, namespaces, markup));
			last = next.catch(() => {});
			return next;
		},
		close: drop
	};
}
