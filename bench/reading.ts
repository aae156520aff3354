// Reading, judging and comparing answers; each as a ratio to JSON.parse of the same text, medians of interleaved rounds.
import { judge, type JudgeTools } from '#core/checks/index.ts';
import { compareData } from '#core/diff/index.ts';
import { parseCheck } from '#core/checks/index.ts';
import type { Json } from '#core/model/json.ts';
import { viewReply } from '#core/model/view.ts';
import { readBody, searchData, treeLines } from '#core/reading/index.ts';

const berth = (i: number) => ({
	id: `B-${i}`,
	name: `Berth ${i} at the upper basin`,
	basin: i % 3 ? 'Upper' : 'Mill',
	lengthMetres: (i % 40) / 2,
	free: i % 2 === 0,
	links: { self: `/moorings/B-${i}` }
});
const list = (n: number) => ({ total: n, items: Array.from({ length: n }, (_, i) => berth(i)) });
const headers: [string, string][] = [['Content-Type', 'application/json']];
const phases = { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 };
const replyOf = (body: Uint8Array) => ({
	status: 200,
	reason: 'OK',
	version: 'HTTP/1.1',
	headers,
	body,
	wireSize: body.length,
	phases,
	reused: false
});

async function ratio(name: string, rounds: number, text: string, work: () => unknown): Promise<void> {
	const ours: number[] = [];
	const bare: number[] = [];
	for (let i = 0; i < rounds; i++) {
		let at = performance.now();
		JSON.parse(text);
		bare.push(performance.now() - at);
		at = performance.now();
		await work();
		ours.push(performance.now() - at);
	}
	const median = (all: number[]) => all.sort((a, b) => a - b)[Math.floor(all.length / 2)]!;
	const [a, b] = [median(ours), median(bare)];
	console.log(`${name.padEnd(58)} ${(a / b).toFixed(2)} × JSON.parse of it (${Math.round(a)} ms)`);
}

const five = JSON.stringify(list(33_000));
const fiveBytes = new TextEncoder().encode(five);
const checks = Array.from({ length: 1000 }, (_, i) =>
	parseCheck({ body: `$.items[${i * 30}].name`, equals: `Berth ${i * 30} at the upper basin` })!
);
await ratio(`1,000 checks on ${(five.length / 1e6).toFixed(1)} MB`, 7, five, async () => {
	const view = viewReply(replyOf(fiveBytes));
	const tools: JudgeTools = {
		view,
		resolve: async (value) => value,
		expression: async () => true,
		now: () => 0
	};
	for (const [index, check] of checks.entries()) {
		const [result] = await judge(check, index, tools);
		if (!result!.holds) throw new Error(JSON.stringify(result));
	}
});

const fifty = JSON.stringify(list(330_000));
const fiftyBytes = new TextEncoder().encode(fifty);
await ratio(`opening ${(fifty.length / 1e6).toFixed(0)} MB to the first lines of its tree`, 3, fifty, () => {
	const { data } = readBody(fiftyBytes, headers);
	treeLines(data!, { by: new Map() });
});
const fiftyData = JSON.parse(fifty) as Json;
await ratio(`searching ${(fifty.length / 1e6).toFixed(0)} MB`, 3, fifty, () => searchData(fiftyData, 'no such text'));

const before = JSON.parse(JSON.stringify(list(1700))) as { items: { name: string }[] };
const after = structuredClone(before);
after.items.unshift(after.items.pop()!);
for (let i = 0; i < 100; i++) after.items[i * 10]!.name += ' (new)';
await ratio('differences of 10,000 fields, 100 changed and one moved', 15, JSON.stringify(before), () => {
	const found = compareData(before as never, after as never);
	if (found.length !== 101) throw new Error(`${found.length}`);
});
