import { messageCodes, messageOf, type MessageCode } from '#core/messages.ts';
import { examples } from '#core/wording/examples.ts';
import { areas, wordings } from '#core/wording/index.ts';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';
import { describe, expect, test } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const sources = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard', 'src'], { cwd: root })
	.toString()
	.split('\n')
	.filter((path) => /\.(ts|svelte)$/.test(path) && !path.endsWith('.test.ts') && !path.startsWith('src/core/wording/'));

/** Endings and hints that are often not there. */
const OPTIONAL = new Set(['nearest', 'hint', 'how']);
/** Their words are the kinds' own and the YAML reader's: each has many, beside what it judges. */
const WORDED_ELSEWHERE = ['yaml.syntax', 'model.wrong'];

interface Use {
	place: string;
	code: string;
	/** Names of the values given; undefined where not all of them can be read off. */
	values: Set<string> | undefined;
}

/** Codes that stand in the program with the values that are given beside them. */
function usesIn(path: string): Use[] {
	const text = readFileSync(root + path, 'utf8');
	const script = path.endsWith('.svelte') ? (/<script[^>]*>([\s\S]*?)<\/script>/.exec(text)?.[1] ?? '') : text;
	const file = ts.createSourceFile(path, script, ts.ScriptTarget.Latest, true);
	const found: Use[] = [];
	const look = (node: ts.Node): void => {
		ts.forEachChild(node, look);
		if (!ts.isStringLiteral(node) || !Object.hasOwn(wordings, node.text)) return;
		const { parent } = node;
		const place = `${path}:${file.getLineAndCharacterOfPosition(node.pos).line + 1}`;
		const called = ts.isNewExpression(parent) || ts.isCallExpression(parent) ? parent : undefined;
		const makes = called && /^(HeronError|messageOf|wrong|warn)$/.test(called.expression.getText(file));
		const given = makes ? called.arguments?.[called.arguments.indexOf(node) + 1] : undefined;
		const plain =
			given === undefined ||
			(ts.isObjectLiteralExpression(given) && !given.properties.some((one) => ts.isSpreadAssignment(one)));
		const names = given && ts.isObjectLiteralExpression(given) ? given.properties : [];
		const values = makes && plain ? new Set(names.map((one) => one.name?.getText(file) ?? '')) : undefined;
		found.push({ place, code: node.text, values });
	};
	look(file);
	return found;
}

describe('what is said of what is wrong', () => {
	const uses = sources.flatMap(usesIn);
	const wordingOf = (code: string): string => wordings[code as MessageCode];
	/** The values that a sentence names. */
	const named = (code: string) =>
		[
			...wordingOf(code)
				.replace(/\{\{.*?\}\}/g, '')
				.matchAll(/\{(\w+)\}/g)
		].map(([, name]) => name!);

	test('every value that a sentence names has an example, and no other', () => {
		for (const code of messageCodes) {
			expect(Object.keys(examples[code] ?? {}).sort(), code).toEqual([...new Set(named(code))].sort());
			expect(messageOf(code, examples[code]).trim(), code).not.toBe('');
		}
		expect(Object.keys(examples).filter((code) => !Object.hasOwn(wordings, code))).toEqual([]);
	});
	test('every error is worded in the table', () => {
		const bare = messageCodes.filter((code) => /^\{\w+\}$/.test(wordingOf(code)));
		expect(bare).toEqual(WORDED_ELSEWHERE);
	});
	test('every code is in use, and once in the table', () => {
		const used = new Set(uses.map(({ code }) => code));
		expect(messageCodes.filter((code) => !used.has(code))).toEqual([]);
		const listed = Object.values(areas).flatMap((area) => Object.keys(area));
		expect(listed.filter((one, index) => listed.indexOf(one) !== index)).toEqual([]);
	});
	test('whoever throws gives every value that the sentence names', () => {
		const lacking = uses.flatMap(({ place, code, values }) => {
			if (!values) return [];
			const none = named(code).filter((name) => !OPTIONAL.has(name) && !values.has(name));
			return none.length > 0 ? [`${place}: ${code} lacks ${none.join(', ')}`] : [];
		});
		expect(lacking).toEqual([]);
		expect(uses.filter(({ values }) => values).length).toBeGreaterThan(300);
	});
	test('braces that are no value stay', () => {
		expect(messageOf('value.template', { text: '{?}' })).toContain('(RFC 6570): {name}, {+name}, {?name*} are some');
	});
});
