import { assertFolder } from '../../src/lib/server/folder-door.ts';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';

const dir = realpathSync(mkdtempSync(join(tmpdir(), 'heron-door-')));
mkdirSync(join(dir, 'in/deep'), { recursive: true });
mkdirSync(join(dir, 'inside'));
symlinkSync(join(dir, 'inside'), join(dir, 'in/out'));
afterAll(() => rmSync(dir, { recursive: true, force: true }));

test.each<[string, string, string[], string, boolean]>([
	['any on loopback', '/etc', [], '127.0.0.1', true],
	['none beyond', join(dir, 'in'), [], '0.0.0.0', false],
	['one that is named', join(dir, 'in'), [join(dir, 'in')], '0.0.0.0', true],
	['one below it', join(dir, 'in/deep'), [join(dir, 'in')], '0.0.0.0', true],
	['one below it that is to be made', join(dir, 'in/new/one'), [join(dir, 'in')], '0.0.0.0', true],
	['one whose name begins alike', join(dir, 'inside'), [join(dir, 'in')], '0.0.0.0', false],
	['one that leads out', join(dir, 'in/deep/../../inside'), [join(dir, 'in')], '127.0.0.1', false],
	['a link that leads out', join(dir, 'in/out'), [join(dir, 'in')], '0.0.0.0', false]
])('%s', (_, given, allowed, host, may) => {
	const ask = () => assertFolder(given, allowed, host);
	if (may) expect(ask).not.toThrow();
	else expect(ask).toThrow(/HERON_FOLDERS|lies elsewhere/);
});
