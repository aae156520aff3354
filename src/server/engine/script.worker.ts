import { writeJson } from '#core/model/json.ts';
import { shortened } from '#core/model/shortened.ts';
import { parentPort } from 'node:worker_threads';
import variant from '@jitl/quickjs-singlefile-cjs-release-sync';
import {
	newQuickJSWASMModuleFromVariant,
	shouldInterruptAfterDeadline,
	type QuickJSWASMModule
} from 'quickjs-emscripten-core';

interface Order {
	script: string;
	/** JSON. */
	input: string;
	limits: { time: number; memory: number };
}

// What a script finds. It runs inside the sandbox too, so that nothing of this side can be reached from there.
const PRELUDE = `(() => {
	const { parse, stringify } = JSON;
	const { isArray } = Array, { keys, fromEntries, assign, defineProperty } = Object;
	const input = parse(__input);
	const kept = {}, checks = [], lines = [], shown = [];
	let touched = false;
	for (const path of input.secret) {
		const name = path.pop();
		const holder = path.reduce((at, key) => at[key], input), value = holder[name];
		defineProperty(holder, name, { enumerable: true, configurable: true, get() { touched = true; return value; } });
	}
	let logged = 0;
	const text = (value) => typeof value === 'string' ? value : value === undefined ? 'undefined' : stringify(value);
	const cut = (value) => { const t = String(text(value)); return t.length > 400 ? t.slice(0, 400) + '…' : t; };
	const name = (given) => {
		if (typeof given !== 'string' || !/^[A-Za-z_]\\w*$/.test(given)) throw new TypeError('a name is made of letters, digits and _: ' + text(given));
		return given;
	};
	const api = {
		request: input.request,
		response: input.response,
		values: input.values,
		now: input.now,
		keep(as, value, how) {
			if (value === undefined) throw new TypeError('nothing to keep as ' + as);
			kept[name(as)] = value;
			if (how && how.shown === true) shown.push(as);
		},
		check(what, holds, received) {
			if (checks.length >= 1000) throw new RangeError('more than 1000 checks');
			checks.push({ name: cut(what), holds: holds === true, expected: 'true', received: arguments.length > 2 ? cut(received) : cut(holds) });
		},
		equal(what, received, expected) {
			if (checks.length >= 1000) throw new RangeError('more than 1000 checks');
			const sorted = (v) => v && typeof v === 'object' && !isArray(v) ? fromEntries(keys(v).sort().map((k) => [k, v[k]])) : v;
			const plain = (v) => stringify(v, (_, x) => sorted(x));
			checks.push({ name: cut(what), holds: plain(received) === plain(expected), expected: cut(expected), received: cut(received) });
		},
		log(...parts) {
			const line = parts.map((part) => String(text(part))).join(' ');
			logged += line.length;
			if (lines.length < 500 && logged < 100000) lines.push(line.length > 5000 ? line.slice(0, 5000) + '…' : line);
			else if (lines[lines.length - 1] !== '…') lines.push('…');
		}
	};
	delete globalThis.__input;
	// a clock and chance would make a run that cannot be repeated
	delete globalThis.Date; delete globalThis.performance; Math.random = () => { throw new TypeError('there is no chance here: use a value with $randomInt'); };
	assign(globalThis, api);
	// it is held from outside: a script finds no name of it
	return () => stringify({ kept, checks, log: lines, touched, shown });
})();`;

/** Of what a script hands out, in characters; and of what it says when it ends early. */
const LARGEST = 8_000_000;
const LONGEST = 1000;

let quickjs: Promise<QuickJSWASMModule> | undefined;

parentPort!.on('message', ({ script, input, limits }: Order) => {
	void run(script, input, limits).then((message) => parentPort!.postMessage(message));
});

async function run(
	script: string,
	input: string,
	limits: Order['limits']
): Promise<{ outcome: string; trouble: string; spent: boolean }> {
	const module = await (quickjs ??= newQuickJSWASMModuleFromVariant(variant));
	const runtime = module.newRuntime();
	runtime.setMemoryLimit(limits.memory);
	runtime.setMaxStackSize(512 * 1024);
	const context = runtime.newContext();
	let spent = false;
	let outcome = '';
	let trouble: string;
	try {
		const given = context.newString(input);
		context.setProp(context.global, '__input', given);
		given.dispose();
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
		const text = shown.error || context.typeof(shown.value) !== 'string' ? '' : context.getString(shown.value);
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
