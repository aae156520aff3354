import { writeJson } from '#core/model/json.ts';
import { shortened } from '#core/model/shortened.ts';
import { parentPort } from 'node:worker_threads';
import variant from '@jitl/quickjs-singlefile-cjs-release-sync';
import {
	newQuickJSWASMModuleFromVariant,
	shouldInterruptAfterDeadline,
	type QuickJSContext,
	type QuickJSWASMModule
} from 'quickjs-emscripten-core';

interface Order {
	script: string;
	/** JSON, in which an integer that no number of JavaScript holds is a text behind the mark. */
	input: string;
	/** Nobody else knows it. */
	mark: string;
	limits: { time: number; memory: number };
}

// What a script finds. It runs inside the sandbox too, so that nothing of this side can be reached from there. What it is to hand
// out is text as soon as it is said: nothing that the script changes of the language takes a check away again.
const PRELUDE = `(() => {
	const { parse, stringify } = JSON, { isArray } = Array, { isFinite } = Number, string = String, big = BigInt;
	const { keys, create, assign, defineProperty, getPrototypeOf, is, prototype } = Object;
	const mark = __mark;
	// integers that a number of JavaScript does not hold come and go as texts with a mark
	const input = __input.includes(mark)
		? parse(__input, (_, value) => (typeof value === 'string' && value.startsWith(mark) ? big(value.slice(mark.length)) : value))
		: parse(__input);
	const json = (value) => stringify(value, (_, one) => (typeof one === 'bigint' ? mark + one : one));
	const kept = create(null);
	let checks = '', count = 0, lines = '', lineCount = 0, logged = 0, shown = '', touched = false;
	for (const path of input.secret) {
		const name = path.pop();
		const holder = path.reduce((at, key) => at[key], input), value = holder[name];
		defineProperty(holder, name, { enumerable: true, configurable: true, get() { touched = true; return value; } });
	}
	const text = (value) => {
		if (typeof value === 'function') return 'a function';
		if (typeof value !== 'object' || value === null) return string(value);
		try {
			return string(stringify(value, (_, one) => (typeof one === 'bigint' ? string(one) : one)));
		} catch {
			return 'an object that cannot be written as JSON';
		}
	};
	const cut = (value) => { const t = text(value); return t.length > 400 ? t.slice(0, 400) + '…' : t; };
	const name = (given) => {
		if (typeof given !== 'string' || !/^[A-Za-z_]\\w*$/.test(given)) throw new TypeError('a name is made of letters, digits and _: ' + text(given));
		return given;
	};
	const same = (a, b) => {
		if (a === b || is(a, b)) return true;
		if ((typeof a === 'bigint' && typeof b === 'number') || (typeof a === 'number' && typeof b === 'bigint')) return a == b;
		if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
		if ((a instanceof Map && b instanceof Map) || (a instanceof Set && b instanceof Set)) return same([...a], [...b]);
		if (isArray(a) || isArray(b)) {
			if (!isArray(a) || !isArray(b) || a.length !== b.length) return false;
			for (let at = 0; at < a.length; at++) if (!same(a[at], b[at])) return false;
			return true;
		}
		for (const one of [a, b]) if (getPrototypeOf(one) !== prototype && getPrototypeOf(one) !== null) return false;
		// what is undefined is not there, as in JSON
		for (const key of keys(a)) if (!same(a[key], b[key])) return false;
		for (const key of keys(b)) if (a[key] === undefined && b[key] !== undefined) return false;
		return true;
	};
	const judge = (what, holds, expected, received) => {
		if (count++ >= 1000) throw new RangeError('more than 1000 checks');
		checks += (checks && ',') + '{"name":' + stringify(cut(what)) + ',"holds":' + holds + ',"expected":' + stringify(cut(expected)) + ',"received":' + stringify(cut(received)) + '}';
	};
	const api = {
		request: input.request,
		response: input.response,
		values: input.values,
		now: input.now,
		keep(as, value, how) {
			if (value === undefined) throw new TypeError('nothing to keep as ' + text(as));
			const data = typeof value === 'number' && !isFinite(value) ? undefined : json(value);
			if (data === undefined) throw new TypeError('what is kept as ' + text(as) + ' is no data: ' + text(value));
			kept[name(as)] = data;
			if (how && how.shown === true) shown += (shown && ',') + stringify(as);
		},
		check(what, holds, received) {
			judge(what, holds === true, 'true', arguments.length > 2 ? received : holds);
		},
		equal(what, received, expected) {
			if (arguments.length < 3) throw new TypeError('equal wants what is compared, what was received, and what is expected');
			judge(what, same(received, expected), expected, received);
		},
		log(...parts) {
			let line = '';
			for (let at = 0; at < parts.length; at++) line += (at > 0 ? ' ' : '') + text(parts[at]);
			logged += line.length;
			if (lineCount > 500) return;
			const left = lineCount++ < 500 && logged < 100000;
			if (!left) lineCount = 501;
			lines += (lines && ',') + stringify(!left ? '…' : line.length > 5000 ? line.slice(0, 5000) + '…' : line);
		}
	};
	delete globalThis.__input; delete globalThis.__mark;
	// a clock and chance would make a run that cannot be repeated
	delete globalThis.Date; delete globalThis.performance; Math.random = () => { throw new TypeError('there is no chance here: use a value with $randomInt'); };
	assign(globalThis, api);
	// it is held from outside: a script finds no name of it
	return () => {
		let all = '';
		for (const as in kept) all += (all && ',') + stringify(as) + ':' + kept[as];
		return '{"kept":{' + all + '},"checks":[' + checks + '],"log":[' + lines + '],"touched":' + touched + ',"shown":[' + shown + ']}';
	};
})();`;

/** Of what a script hands out, in characters; and of what it says when it ends early. */
const LARGEST = 8_000_000;
const LONGEST = 1000;

let quickjs: Promise<QuickJSWASMModule> | undefined;

parentPort!.on('message', (order: Order) => {
	void run(order).then((message) => parentPort!.postMessage(message));
});

function give(context: QuickJSContext, name: string, text: string): void {
	const given = context.newString(text);
	context.setProp(context.global, name, given);
	given.dispose();
}

async function run({
	script,
	input,
	mark,
	limits
}: Order): Promise<{ outcome: string; trouble: string; spent: boolean }> {
	const module = await (quickjs ??= newQuickJSWASMModuleFromVariant(variant));
	const runtime = module.newRuntime();
	runtime.setMemoryLimit(limits.memory);
	runtime.setMaxStackSize(512 * 1024);
	const context = runtime.newContext();
	let spent = false;
	let outcome = '';
	let trouble: string;
	try {
		give(context, '__input', input);
		give(context, '__mark', mark);
		const deadline = Date.now() + limits.time;
		runtime.setInterruptHandler(shouldInterruptAfterDeadline(deadline));
		const collect = context.unwrapResult(context.evalCode(PRELUDE, 'prelude'));
		// a function of its own, so that a script may return early
		const result = context.evalCode(`(function () { 'use strict';\n${script}\n})()`, 'script');
		let error = '';
		if (result.error) {
			error = words(context.dump(result.error), limits);
			spent = Date.now() > deadline;
			result.error.dispose();
		} else {
			result.value.dispose();
			// what promises do is done now; there is nothing to wait for
			const jobs = runtime.executePendingJobs(10_000);
			if (jobs.error) {
				error = words(context.dump(jobs.error), limits);
				jobs.error.dispose();
			}
		}
		runtime.setInterruptHandler(shouldInterruptAfterDeadline(Date.now() + 1000));
		const shown = context.callFunction(collect, context.undefined);
		const text = shown.error ? '' : context.getString(shown.value);
		if (shown.error) error ||= `what it made cannot be read: ${words(context.dump(shown.error), limits)}`;
		(shown.error ?? shown.value).dispose();
		collect.dispose();
		outcome = text.length > LARGEST ? '' : text;
		if (text.length > LARGEST) error ||= `what it keeps and logs is larger than ${LARGEST / 1_000_000} MB`;
		trouble = error;
	} catch (error) {
		trouble = words(error, limits);
		spent = true;
	}
	try {
		context.dispose();
		runtime.dispose();
	} catch {
		// the module may be left in pieces: a new worker is made for the next one
		spent = true;
	}
	return { outcome, trouble, spent };
}

function words(thrown: unknown, { time, memory }: Order['limits']): string {
	const {
		name = '',
		message = '',
		stack = ''
	} = Object.fromEntries(
		Object.entries(typeof thrown === 'object' && thrown ? thrown : { message: thrown }).map(([key, value]) => [
			key,
			typeof value === 'string' ? value : (writeJson(value) ?? String(value))
		])
	) as Record<string, string>;
	if (/interrupted/.test(message)) return `it took longer than ${time} ms`;
	if (/out of memory/.test(message)) return `it needs more than ${Math.round(memory / 1_000_000)} MB`;
	if (/stack overflow/i.test(message)) return 'it calls itself without end';
	// one line is put in front of the script
	const line = /script:(\d+)/.exec(stack)?.[1];
	const collect = `${name && name !== 'Error' ? `${name}: ` : ''}${message}`;
	return `${shortened(collect, LONGEST)}${line ? ` (line ${Number(line) - 1})` : ''}`;
}
