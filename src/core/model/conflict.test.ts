import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { loadDocument } from '../project/index.ts';
import { conflictsIn } from './conflict.ts';

/** What git leaves in a file whose two sides it cannot merge. */
function merged(base: string, ours: string, theirs: string, style = 'merge'): string {
	const dir = mkdtempSync(join(tmpdir(), 'heron-merge-'));
	try {
		for (const [name, text] of Object.entries({ base, ours, theirs })) writeFileSync(join(dir, name), text);
		const args = [
			'merge-file',
			...(style === 'diff3' ? ['--diff3'] : []),
			'-L',
			'main',
			'-L',
			'base',
			'-L',
			'longer',
			'ours',
			'base',
			'theirs'
		];
		try {
			execFileSync('git', args, { cwd: dir });
		} catch {
			// it ends with the number of conflicts
		}
		return readFileSync(join(dir, 'ours'), 'utf8');
	} finally {
		rmSync(dir, { recursive: true, force: true });
	}
}
const file = (title: string, last: string) =>
	`heron: 1\ntitle: ${title}\nconnection: a\ncredential: b\nnote: c\nscenarios: []\n${last}\n`;

describe('conflicts that git leaves', () => {
	const text = merged(file('Locks', '# x'), file('Our locks', '# y'), file('Their locks', '# z'));
	test('both sides are told, with their names and places', () => {
		expect(conflictsIn(text)).toMatchObject([
			{ line: 2, ourName: 'main', theirName: 'longer', ours: 'title: Our locks\n', theirs: 'title: Their locks\n' },
			{ ours: '# y\n', theirs: '# z\n' }
		]);
	});
	test('each side in the place of its marks gives the file of that side', () => {
		const side = (pick: 'ours' | 'theirs') =>
			conflictsIn(text).reduceRight((at, one) => at.slice(0, one.from) + one[pick] + at.slice(one.to), text);
		expect(side('ours')).toBe(file('Our locks', '# y'));
		expect(side('theirs')).toBe(file('Their locks', '# z'));
	});
	test('what both came from is told where the marks hold it', () => {
		const three = merged(file('Locks', '#'), file('Our locks', '#'), file('Their locks', '#'), 'diff3');
		expect(conflictsIn(three)).toMatchObject([{ base: 'title: Locks\n', ours: 'title: Our locks\n' }]);
	});
	test('lines that end with CR and LF stay so', () => {
		const crlf = text.replaceAll('\n', '\r\n');
		expect(conflictsIn(crlf)[0]).toMatchObject({ ourName: 'main', ours: 'title: Our locks\r\n' });
	});
	test.each([
		['marks that are not whole', '<<<<<<< a\nx\n'],
		['a line of equal signs', 'title: x\n=======\n'],
		['marks of another length', '<<<<<<<< a\nx\n========\ny\n>>>>>>>> b\n']
	])('%s are no conflict', (_, odd) => expect(conflictsIn(odd)).toEqual([]));

	test('a file in conflict is told as one, not as broken YAML', () => {
		expect(loadDocument('collections/locks.yaml', text)?.problems).toMatchObject([
			{ code: 'yaml.conflict', line: 2 },
			{ code: 'yaml.conflict' }
		]);
	});
});
