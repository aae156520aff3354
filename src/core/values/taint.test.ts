import { describe, expect, test } from 'vitest';
import { createRedactor } from '../redact/index.ts';
import { createEvaluator } from './evaluator.ts';
import type { Scope } from './scope.ts';

const secret = 'Otter-on-the-bank-42';
const scopeWith = (redactor: ReturnType<typeof createRedactor>): Scope => ({
	names: {
		env: { plain: 'harbour', derived: `Bearer ${secret}`, list: { deep: [secret] } },
		secret: { word: secret },
		row: {},
		steps: { signIn: { token: 'Hidden-token-77' } },
		run: { id: 'r1' },
		lines: { query: `key=${secret}&n=1` }
	},
	ports: { now: () => 0, randomBytes: (n) => new Uint8Array(n), seed: 1, random: () => 0, next: () => 1 },
	hider: redactor
});

describe('what is made with a secret is a secret', () => {
	const cases: [string, string, 'hidden' | 'shown'][] = [
		['a digest', '$hash("sha256", $secret.word)', 'hidden'],
		['a keyed digest', '$hmac("sha256", $secret.word, "x", "base64")', 'hidden'],
		['a piece', '$substring($secret.word, 0, 8)', 'hidden'],
		['another case', '$uppercase($secret.word)', 'hidden'],
		['all secrets as text', '$string($secret)', 'hidden'],
		['looked up by name', '$substring($lookup($secret, "word"), 0, 9)', 'hidden'],
		['of a variable that holds one', '$hash("md5", $env.derived)', 'hidden'],
		['of a variable that holds one deep inside', '$reverse($split($env.list.deep[0], "")) ~> $join()', 'hidden'],
		['of all variables', '$hash("md5", $string($env))', 'hidden'],
		['of a token that was kept', '$lowercase($steps.signIn.token)', 'hidden'],
		['a choice that depends on one', '$secret.word = "x" ? "one-or-other" : "another-one"', 'hidden'],
		['of a variable that holds none', '$uppercase($env.plain)', 'shown'],
		['that somebody says is none', '$shown($substring($secret.word, 0, 8))', 'shown'],
		['the run', '$uppercase($run.id) & "-long-enough"', 'shown']
	];
	test.each(cases)('%s', async (_, source, wanted) => {
		const redactor = createRedactor({ word: secret });
		redactor.learn('token', 'Hidden-token-77');
		const value = await createEvaluator().expression(source, scopeWith(redactor));
		const shown = redactor.text(`before ${String(value)} behind`);
		if (wanted === 'hidden') expect(shown).not.toContain(String(value));
		else expect(shown).toContain(String(value));
	});
	test('a text around a secret that a line holds stays readable, but for the secret', async () => {
		const redactor = createRedactor({ word: secret });
		const value = await createEvaluator().expression('$join(["GET", $lines.query], " ")', scopeWith(redactor));
		expect(redactor.text(String(value))).toBe('GET key=‹word›&n=1');
	});
	test('who only looks is told of each use, even of a truth value or a failure', async () => {
		for (const source of ['$contains($secret.word, "O")', '$length($secret.word)', '$exists($secret.word)']) {
			const redactor = createRedactor({ word: secret }, { strict: true });
			let touched = 0;
			const hider = { text: redactor.text, made: redactor.made, touched: () => void touched++ };
			await createEvaluator().expression(source, { ...scopeWith(redactor), hider });
			expect(touched, source).toBe(1);
		}
		const redactor = createRedactor({ word: secret }, { strict: true });
		const hider = { text: redactor.text, made: redactor.made, touched: () => {} };
		await expect(
			createEvaluator().expression('$error($substring($secret.word, 0, 3))', { ...scopeWith(redactor), hider })
		).rejects.toThrow('why is not shown, because it is made with a secret');
	});
});
