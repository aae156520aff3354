import { commitFiles, committed, committedIn, readStatus, versionOf } from '#server/folder/version.ts';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';

let dir: string;
let project: string;
const git = (...args: string[]) =>
	execFileSync('git', ['-C', dir, '-c', 'user.name=Avery', '-c', 'user.email=avery@reedmere.example', ...args], {
		stdio: ['ignore', 'pipe', 'ignore']
	}).toString();
beforeEach(() => {
	dir = mkdtempSync(join(tmpdir(), 'heron-version-'));
	project = join(dir, 'tests of ours');
	mkdirSync(join(project, 'collections'), { recursive: true });
	git('init', '-q', '-b', 'main');
	writeFileSync(join(dir, 'other.txt'), 'x');
	writeFileSync(join(project, 'heron.yaml'), 'heron: 1\n');
	writeFileSync(join(project, 'collections/a b.yaml'), 'heron: 1\ntitle: Süd\n');
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));
const commit = () => {
	git('add', '-A');
	git('commit', '-q', '-m', 'x');
	return git('rev-parse', 'HEAD').trim();
};

describe('where a folder stands in version control', () => {
	test('before the first commit', async () => {
		expect(await versionOf(project)).toEqual({
			branch: 'main',
			commit: '',
			unfinished: '',
			changed: new Map([
				['collections/a b.yaml', 'new'],
				['heron.yaml', 'new']
			])
		});
	});
	test('what differs from the commit, below the folder alone', async () => {
		const head = commit();
		writeFileSync(join(dir, 'other.txt'), 'y');
		writeFileSync(join(project, 'collections/a b.yaml'), 'heron: 1\ntitle: Nord\n');
		writeFileSync(join(project, 'collections/new.yaml'), 'heron: 1\n');
		rmSync(join(project, 'heron.yaml'));
		expect(await versionOf(project)).toEqual({
			branch: 'main',
			commit: head,
			unfinished: '',
			changed: new Map([
				['collections/a b.yaml', 'changed'],
				['heron.yaml', 'gone'],
				['collections/new.yaml', 'new']
			])
		});
		expect((await committed(project, 'collections/a b.yaml'))!.toString()).toBe('heron: 1\ntitle: Süd\n');
		expect(await committed(project, 'collections/new.yaml')).toBeUndefined();
		for (const _ of ['first', 'again'])
			expect((await committedIn(project, head, 'collections/a b.yaml'))!.toString()).toBe('heron: 1\ntitle: Süd\n');
		expect(await committedIn(project, head, 'collections/new.yaml')).toBeUndefined();
	});
	test('a file that is called otherwise, and staged', async () => {
		commit();
		git('mv', 'tests of ours/collections/a b.yaml', 'tests of ours/collections/c.yaml');
		expect((await versionOf(project))!.changed).toEqual(
			new Map([
				['collections/c.yaml', 'new'],
				['collections/a b.yaml', 'gone']
			])
		);
	});
	test('no branch, and a merge under way with a file in conflict', async () => {
		commit();
		git('checkout', '-q', '-b', 'theirs');
		writeFileSync(join(project, 'heron.yaml'), 'heron: 1\ntitle: theirs\n');
		commit();
		git('checkout', '-q', 'main');
		writeFileSync(join(project, 'heron.yaml'), 'heron: 1\ntitle: ours\n');
		commit();
		expect(() => git('merge', 'theirs')).toThrow();
		const found = await versionOf(project);
		expect([found!.unfinished, found!.changed.get('heron.yaml')]).toEqual(['merge', 'conflict']);
		git('merge', '--abort');
		git('checkout', '-q', '--detach');
		expect((await versionOf(project))!.branch).toBe('');
	});
	test('nothing in the folder’s settings starts a program', async () => {
		commit();
		const mark = join(dir, 'started');
		git('config', 'core.fsmonitor', `touch ${JSON.stringify(mark)}`);
		await versionOf(project);
		expect(existsSync(mark)).toBe(false);
	});
	test('a folder that is in none', async () => {
		const alone = mkdtempSync(join(tmpdir(), 'heron-alone-'));
		expect(await versionOf(alone)).toBeUndefined();
		expect(await versionOf(join(alone, 'gone'))).toBeUndefined();
		rmSync(alone, { recursive: true });
	});
	test('odd lines are left alone', () => {
		expect(readStatus('nonsense\0\0# branch.head (detached)\0', '')).toEqual({
			branch: '',
			commit: '',
			changed: new Map()
		});
	});
});

describe('a commit of some files', () => {
	const head = () => git('show', '--stat=200', '--format=%s%n%an', 'HEAD');
	beforeEach(() => {
		git('config', 'user.name', 'Avery');
		git('config', 'user.email', 'avery@reedmere.example');
	});
	test('takes what is chosen, changed, new and gone, and leaves all else as it is, staged or not', async () => {
		commit();
		writeFileSync(join(dir, 'other.txt'), 'staged elsewhere');
		git('add', 'other.txt');
		writeFileSync(join(project, 'heron.yaml'), 'heron: 1\ntitle: changed\n');
		writeFileSync(join(project, 'collections/[new].yaml'), 'heron: 1\n');
		writeFileSync(join(project, 'collections/later.yaml'), 'heron: 1\n');
		rmSync(join(project, 'collections/a b.yaml'));
		await commitFiles(
			project,
			['heron.yaml', 'collections/[new].yaml', 'collections/a b.yaml'],
			'What we know\n\nof it'
		);
		expect(head()).toMatch(/^What we know\nAvery\n/);
		for (const name of ['heron.yaml', '[new].yaml', 'a b.yaml']) expect(head()).toContain(name);
		expect(head()).not.toContain('other.txt');
		expect((await versionOf(project))!.changed).toEqual(new Map([['collections/later.yaml', 'new']]));
		expect(git('status', '--porcelain')).toContain('M  other.txt');
	});
	test('the first one of a repository', async () => {
		await commitFiles(project, ['heron.yaml'], 'begin');
		expect(head()).toMatch(/^begin\n/);
		expect((await versionOf(project))!.changed).toEqual(new Map([['collections/a b.yaml', 'new']]));
	});
	test.each([
		[
			'nobody is named as author',
			() => git('config', 'user.useConfigOnly', 'true') + git('config', '--unset', 'user.email'),
			/email/
		],
		['nothing of it changed', () => '', /nothing to commit|no changes|nothing added/]
	])('is refused in words where %s', async (_, before, words) => {
		commit();
		before();
		if (words.source.includes('email')) writeFileSync(join(project, 'heron.yaml'), 'heron: 1\ntitle: x\n');
		const env = { HOME: process.env.HOME, XDG_CONFIG_HOME: process.env.XDG_CONFIG_HOME };
		process.env.HOME = process.env.XDG_CONFIG_HOME = dir;
		try {
			await expect(commitFiles(project, ['heron.yaml'], 'x')).rejects.toThrow(words);
		} finally {
			for (const [name, value] of Object.entries(env))
				if (value === undefined) delete process.env[name];
				else process.env[name] = value;
		}
	});
	test('starts no program that the repository names: hooks, filters, signatures', async () => {
		commit();
		const bait = join(dir, 'bait');
		const script = `#!/bin/sh\ntouch "${bait}"\ncat\n`;
		mkdirSync(join(dir, '.git/hooks'), { recursive: true });
		for (const name of ['pre-commit', 'commit-msg', 'post-commit', 'prepare-commit-msg'])
			writeFileSync(join(dir, '.git/hooks', name), script, { mode: 0o755 });
		writeFileSync(join(dir, 'filter.sh'), script, { mode: 0o755 });
		writeFileSync(join(dir, '.gitattributes'), '*.yaml filter=bait diff=bait\n');
		git('config', 'filter.bait.clean', join(dir, 'filter.sh'));
		git('config', 'filter.bait.required', 'true');
		git('config', 'diff.bait.textconv', join(dir, 'filter.sh'));
		git('config', 'core.editor', join(dir, 'filter.sh'));
		git('config', 'commit.gpgSign', 'true');
		git('config', 'gpg.program', join(dir, 'filter.sh'));
		writeFileSync(join(project, 'heron.yaml'), 'heron: 1\ntitle: y\n');
		await versionOf(project);
		await committed(project, 'heron.yaml');
		await commitFiles(project, ['heron.yaml'], 'quietly');
		expect(head()).toMatch(/^quietly\n/);
		expect(existsSync(bait)).toBe(false);
	});
});
