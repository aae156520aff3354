import { HeronError, type Problem } from '../errors.ts';
import { messageOf } from '../messages.ts';
import { isObject, parseJsonPlainly } from '../model/json.ts';
import { parseXml } from '../soap/index.ts';
import { decodeText } from '../values/index.ts';

const XSD = 'http://www.w3.org/2001/XMLSchema';

const looked = new WeakMap<Uint8Array, Problem | 'sound'>();

/**
 * What keeps a file in schemas/ from being one, as far as its text tells: JSON that holds an object or a truth value (JSON
 * Schema 2020-12 section 4.3), or XML whose root is a schema of W3C. Undefined when it is sound, or of another kind.
 */
export function schemaProblem(path: string, bytes: Uint8Array): Problem | undefined {
	const known = looked.get(bytes);
	if (known) return known === 'sound' ? undefined : known;
	const found = read(path, decodeText(bytes).text);
	looked.set(bytes, found ?? 'sound');
	return found;
}

function read(file: string, text: string): Problem | undefined {
	const wrong = (detail: string, place: { line: number; column: number } | undefined): Problem => ({
		code: 'schema.wrong',
		message: messageOf('schema.wrong', { file, detail }),
		...{ file, path: [], ...place }
	});
	const placeIn = (message: string) => {
		const [, line, column] = /line (\d+), column (\d+)/.exec(message) ?? /:(\d+):(\d+): /.exec(message) ?? [];
		return line ? { line: Number(line), column: Number(column) } : undefined;
	};
	try {
		if (/\.json$/i.test(file)) {
			const value = parseJsonPlainly(text);
			return isObject(value) || typeof value === 'boolean'
				? undefined
				: wrong('a JSON Schema is an object, or true or false', { line: 1, column: 1 });
		}
		if (!/\.xsd$/i.test(file)) return undefined;
		const root = parseXml(text, file);
		return root.local === 'schema' && root.namespace === XSD
			? undefined
			: wrong(
					`its root is ${root.local}${root.namespace ? ` of ${root.namespace}` : ''}, and schema of ${XSD} is wanted`,
					root
				);
	} catch (error) {
		const { message } = error as Error;
		return wrong(error instanceof HeronError ? String(error.values.detail ?? message) : message, placeIn(message));
	}
}
