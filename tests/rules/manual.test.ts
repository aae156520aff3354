import { diagnosisCodes, diagnosisOf, STAGE_TITLES } from '#core/reach/diagnoses.ts';
import { readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { tables, withTable } from './manual.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));
const read = (file: string) => readFileSync(root + file, 'utf8');

describe('the tables of the manual are those of the code (npm run manual writes them)', () => {
	test.each(tables.map((table) => [`${table.file}: ${table.name}`, table] as const))('%s', (_, table) => {
		const made = withTable(read(table.file), table);
		if (process.env.MANUAL === 'write') writeFileSync(root + table.file, made);
		expect(read(table.file)).toBe(made);
	});
	test('a table without a place in the manual is told', () => {
		expect(() => withTable('# Checks\n', tables[0]!)).toThrow('no place');
	});
	test.each(diagnosisCodes)('docs/reach.md says of %s what the check says', (code) => {
		const { stage, title, meaning, warning } = diagnosisOf(code);
		const finding = `${title}${warning ? ' (goes on)' : ''}`;
		expect(read('docs/reach.md')).toContain(`| ${STAGE_TITLES[stage]} | ${finding} | ${meaning} | \`${code}\``);
	});
});
