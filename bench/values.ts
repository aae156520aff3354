// What values cost: run bundled by bench/index.mjs; prints JSON.
import { createEvaluator, type FunctionPorts, type Scope } from '#core/values/index.ts';
import { prepareRequest } from '../src/core/run/prepare.ts';
import { parseStep } from '#core/steps/index.ts';
import jsonata from 'jsonata';

const ports: FunctionPorts = {
	now: () => 0,
	randomBytes: (n) => new Uint8Array(n),
	seed: 1,
	random: () => 0,
	next: () => 1
};
const env = Object.fromEntries(Array.from({ length: 20 }, (_, i) => [`v${i}`, `value ${i}`]));
const scope: Scope = { names: { env, secret: {}, row: {}, steps: {}, run: {} }, ports };
const evaluator = createEvaluator();
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
async function time(times: number, act: () => unknown): Promise<number> {
	const rounds: number[] = [];
	for (let round = 0; round < 7; round++) {
		const start = performance.now();
		for (let i = 0; i < times; i++) {
			const result = act();
			if (result instanceof Promise) await result;
		}
		rounds.push((performance.now() - start) / times);
	}
	return median(rounds);
}

const whole = jsonata('$env.v3');
const plain = await time(20_000, () => evaluator.value('{$env.v3}', scope));
const language = await time(2000, () => whole.evaluate({}, { env }));
const step = parseStep({
	id: 'a',
	send: 'POST /a/{id}',
	path: { id: '{$env.v0}' },
	query: { a: '{$env.v1}', b: '{$env.v2}' },
	headers: { 'X-A': '{$env.v3}', 'X-B': '{$env.v4}' },
	body: { json: { a: '{$env.v5}', b: '{$env.v6}', c: '{$env.v7}', d: '{$env.v8}', e: '{$env.v9}' } }
});
const connection = undefined;
const session = { cookiesFor: () => '', auth: new Map() };
const spec = { ...step.send!, target: 'http://h/a/{id}' };
const filled = await time(3000, () =>
	prepareRequest(spec, connection, { evaluator, scope, ports, session, agent: 'bench' })
);
const literal = JSON.parse(JSON.stringify(spec).replace(/\{\$env\.v(\d)\}/g, 'value $1')) as typeof spec;
const bare = await time(3000, () =>
	prepareRequest(literal, connection, { evaluator, scope, ports, session, agent: 'bench' })
);
console.log(JSON.stringify({ plain, language, values: filled - bare }));
