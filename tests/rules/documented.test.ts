import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';
import { expect, test } from 'vitest';

const core = fileURLToPath(new URL('../../src/core/', import.meta.url));

/** An entry of a list of kinds says what it is in its own `doc`. */
const ENTRY = /(Kind(<.*>)?|Rule|ExpressionFunction\[\]|CredentialField(\[\])?)$/;
const isEntry = (statement: ts.Statement): boolean =>
	ts.isVariableStatement(statement) &&
	statement.declarationList.declarations.every(({ type }) => type !== undefined && ENTRY.test(type.getText()));

test('every export of the core says what it is', () => {
	const files = readdirSync(core, { recursive: true, encoding: 'utf8' }).filter(
		(name) => name.endsWith('.ts') && !name.endsWith('.test.ts') && !name.endsWith('.d.ts')
	);
	const bare = files.flatMap((name) => {
		const file = ts.createSourceFile(name, readFileSync(core + name, 'utf8'), ts.ScriptTarget.Latest, true);
		return file.statements
			.filter(
				(one) =>
					ts.canHaveModifiers(one) &&
					ts.getModifiers(one)?.some(({ kind }) => kind === ts.SyntaxKind.ExportKeyword) &&
					ts.getJSDocCommentsAndTags(one).length === 0 &&
					!isEntry(one)
			)
			.map((one) => `${name}: ${one.getText().slice(0, 60)}`);
	});
	expect(files.length).toBeGreaterThan(200);
	expect(bare).toEqual([]);
});
