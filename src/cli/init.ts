import { HeronError } from '#core/errors.ts';
import { kindOfFile } from '#core/documents/kinds.ts';
import { LOCAL_FILE } from '#core/documents/local.ts';
import { beginProject, seemsDefinition } from '#core/begin/index.ts';
import { secretVariable } from '#core/run/index.ts';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { importDefinition } from './import.ts';
import { schemaComment, writeSchemas } from './schema.ts';

/** Where editors find what may stand in the files; the application leaves it alone. */
const SCHEMAS = '.heron/schemas';

/** `heron init [DIR]`: the files of a new project; what is there already is left alone. */
export async function init(io: Io, names: string[], flags: Flags): Promise<number> {
	const [given = '.', ...more] = names;
	if (more.length > 0) throw new HeronError('usage.init');
	const dir = resolve(given);
	const from = one(flags, 'from') ?? '';
	const definition = from !== '' && (seemsDefinition(from) || (!/^[a-z]+:\/\//i.test(from) && existsSync(from)));
	const title = one(flags, 'title') ?? (from && !definition ? '' : basename(dir));
	const { files, secrets, notes } = beginProject({ title, call: definition ? '' : from });
	for (const { path } of [...files, { path: 'heron.yaml' }])
		if (existsSync(join(dir, path)))
			throw path === 'heron.yaml'
				? new HeronError('init.project', { folder: given })
				: new HeronError('init.file', { path: join(given, path) });
	for (const { path, text } of files) {
		const kind = kindOfFile(path)?.kind.name;
		const up = path.includes('/') ? '../' : '';
		mkdirSync(dirname(join(dir, path)), { recursive: true });
		writeFileSync(join(dir, path), kind ? `# ${schemaComment(`${up}${SCHEMAS}`, kind)}\n${text}` : text);
	}
	writeSchemas(join(dir, SCHEMAS));
	const ignored = keepOut(dir);
	for (const { path } of files) io.out(`${path}\n`);
	io.out(`${SCHEMAS}/\n`);
	if (ignored) io.out('.gitignore\n');
	for (const note of notes) io.err(`note: ${note}\n`);
	if (secrets.length > 0)
		io.err(
			`note: what is secret in the command stands in no file: give it as ${secrets.map(({ name }) => secretVariable(name)).join(', ')}, or in a secrets file\n`
		);
	if (definition) await importDefinition(io, from, { project: dir });
	const there = given === '.' ? '' : ` --project ${given}`;
	io.out(
		`\nheron check${there} looks at it, heron run${there} runs it, and heron open${given === '.' ? '' : ` ${given}`} shows it in the application.\n`
	);
	return 0;
}

/** Values of this machine stay out of version control. @returns whether a file was written */
function keepOut(dir: string): boolean {
	const path = join(dir, '.gitignore');
	const before = existsSync(path) ? readFileSync(path, 'utf8') : '';
	if (before.split(/\r?\n/).includes(LOCAL_FILE)) return false;
	writeFileSync(path, `${before}${before && !before.endsWith('\n') ? '\n' : ''}${LOCAL_FILE}\n`);
	return true;
}
