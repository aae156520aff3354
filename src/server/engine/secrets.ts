import { HeronError } from '#core/errors.ts';
import { isObject } from '#core/model/json.ts';
import { parseYaml } from '#core/model/yaml.ts';
import { secretVariable } from '#core/run/index.ts';
import { readFileSync } from 'node:fs';

/**
 * The values of secrets: from the process's environment (`HERON_SECRET_…`), over those of a file of names and values.
 * Names that no environment lists are taken from the variable, as `clerkPassword` for HERON_SECRET_CLERK_PASSWORD.
 */
export function readSecrets(
	env: Record<string, string | undefined>,
	known: Iterable<string>,
	file?: string
): Record<string, string> {
	const secrets: Record<string, string> = {};
	if (file) {
		let text: string;
		try {
			text = readFileSync(file, 'utf8');
		} catch (cause) {
			throw new HeronError('secrets.unreadable', { file, detail: String((cause as Error).message) }, { cause });
		}
		const { value, problems } = parseYaml(file, text);
		// the message of a YAML error may quote the line, which holds a secret
		if (problems.length > 0) throw new HeronError('secrets.yaml', { file, line: problems[0]!.line ?? 1 });
		if (value !== null && !isObject(value)) throw new HeronError('secrets.shape', { file });
		for (const [name, secret] of Object.entries(value ?? {})) {
			if (typeof secret === 'object' && secret !== null) throw new HeronError('secrets.text', { file, name });
			secrets[name] = String(secret ?? '');
		}
	}
	for (const [variable, value] of Object.entries(env)) {
		if (!variable.startsWith('HERON_SECRET_') || value === undefined) continue;
		const words = variable.slice('HERON_SECRET_'.length).toLowerCase().split('_');
		secrets[words.map((word, i) => (i === 0 ? word : word.charAt(0).toUpperCase() + word.slice(1))).join('')] = value;
	}
	for (const name of known) {
		const value = env[secretVariable(name)];
		if (value !== undefined) secrets[name] = value;
	}
	return secrets;
}
