import { cutWords, type CheckResult } from '../checks/index.ts';
import { HeronError, textOf } from '../errors.ts';
import type { Kept } from '../model/step.ts';
import { shortened } from '../model/shortened.ts';
import { writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { ReplyView } from '../model/view.ts';
import { select, type Selected } from '../selectors/index.ts';
import { utf8, type Scope } from '../values/index.ts';
import { folderOf, type Memory, type StepContext } from './context.ts';

/**
 * Reads a value that is kept out of a reply; undefined when it is not there.
 * @param called the address of the request, from which references go on
 * @throws HeronError selector.*
 */
export async function keepOne({ selector, take }: Kept, view: ReplyView, called: string): Promise<Json | undefined> {
	const looked = select(selector, view, true);
	const selected: Selected = looked instanceof Promise ? await looked : looked;
	if (!take) return selected.found ? selected.value : undefined;
	const items =
		selected.items ?? (selected.found ? (Array.isArray(selected.value) ? selected.value : [selected.value]) : []);
	if (take === 'count') return items.length;
	if (take === 'all') return items;
	if (take === 'address') return items.length > 0 ? addressFrom(items[0], called) : undefined;
	return items.at(take === 'first' ? 0 : -1);
}

function addressFrom(reference: Json | undefined, called: string): string {
	if (typeof reference !== 'string' || !URL.canParse(reference, called))
		throw new HeronError('selector.address', { found: shortened(writeJson(reference ?? null), 200) });
	return new URL(reference, called).href;
}

/** A value as the bytes of a file: the body as it came, a text as it is, anything else as JSON. */
function bytesOf({ selector }: Kept, value: Json, view: ReplyView): Uint8Array {
	if (selector === 'body') return view.reply.body;
	return utf8(typeof value === 'string' ? value : writeJson(value, 2));
}

/** By which step a value is kept, and where. */
export interface Keeper {
	scope: Scope;
	step: string;
	memory: Memory;
}

/** What is kept of a value: itself, or the path by which later steps name the file that it was put into. @throws HeronError name.file, value.* */
export async function valueKept(
	kept: Kept,
	value: Json,
	view: ReplyView,
	{ scope, step, memory }: Keeper,
	context: StepContext
): Promise<Json> {
	if (kept.file === undefined) return value;
	const name = await context.evaluator.text(kept.file, scope);
	if (!/^\w[\w.-]*$/.test(name)) throw new HeronError('name.file', { name });
	const path = `kept/${folderOf(step, context)}${name}`;
	const bytes = bytesOf(kept, value, view);
	(memory.files ??= new Map()).set(path, bytes);
	context.ports.keptFile?.(name, bytes);
	return path;
}

/** Reads all that a step keeps out of a reply; what is not there is `missing`, as checks that do not hold. */
export async function keepAll(
	keep: Kept[],
	{ view, called }: { view: ReplyView; called: string },
	keeper: Keeper,
	context: StepContext
): Promise<{ values: JsonObject; missing: CheckResult[] }> {
	const values: JsonObject = {};
	const missing: CheckResult[] = [];
	for (const kept of keep) {
		const { name, selector, otherwise } = kept;
		try {
			const cut = cutWords(view.reply);
			if (cut && !/^(header|cookie):/.test(selector)) throw new HeronError('check.judge', { detail: cut });
			const value = await keepOne(kept, view, called);
			if (value !== undefined) values[name] = await valueKept(kept, value, view, keeper, context);
			else if (otherwise !== undefined) values[name] = otherwise;
			else missing.push(notKept(kept));
		} catch (error) {
			// what cannot be read is no reason to fail when something else is good enough
			if (otherwise !== undefined && error instanceof HeronError && error.code !== 'selector.syntax')
				values[name] = otherwise;
			else missing.push({ ...notKept({ name, selector }), error: textOf(error) });
		}
	}
	return { values, missing };
}

const notKept = ({ name, selector, take }: Pick<Kept, 'name' | 'selector' | 'take'>): CheckResult => ({
	index: -1,
	subject: `keep ${name}`,
	relation: 'present',
	expected: take ? `the ${take} of ${selector}` : `a value at ${selector}`,
	received: 'nothing',
	holds: false
});
