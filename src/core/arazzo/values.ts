import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { hasExpression, parseTemplate } from '../values/index.ts';

/** Where a document of another tool would have nothing of ours: what has no equal in Arazzo stands there. */
export const OWN = 'x-loyal-heron';

/** Inputs that a workflow gets for values which Arazzo cannot compute. */
export interface Inputs {
	/** Names with the JSON Schema that describes them. */
	properties: JsonObject;
	required: string[];
}

/** What stands for expressions in an Arazzo document (Arazzo 1.0.1 section 4.7). */
export interface ToRuntime {
	(value: Json): Json;
	/** One text, for places where text alone may stand. */
	text(value: string): string;
}

/** Writes expressions of a scenario as runtime expressions; what those cannot say becomes an input. */
export function runtimeFor(
	inputs: Inputs,
	known: { variables: Readonly<Record<string, Json>>; secrets: ReadonlySet<string> }
): ToRuntime {
	const input = (name: string, schema: JsonObject): string => {
		if (!Object.hasOwn(inputs.properties, name)) {
			inputs.properties[name] = schema;
			if (schema.default === undefined) inputs.required.push(name);
		}
		return `$inputs.${name}`;
	};
	const expression = (source: string): string => {
		const [, step, output] = /^\$steps\.(\w+)\.(\w+)$/.exec(source) ?? [];
		if (step && output) return `$steps.${step}.outputs.${output}`;
		const [, root, name] = /^\$(env|secret|row)\.(\w+)$/.exec(source) ?? [];
		if (root === 'secret' && name) return input(name, { type: 'string', format: 'password' });
		if (root === 'env' && name) {
			const value = known.variables[name];
			const plain = typeof value === 'string' ? !hasExpression(value) : typeof value !== 'object';
			return input(name, value === undefined || !plain ? { [OWN]: source } : { default: value });
		}
		// what is computed here has to be given there
		const found = Object.entries(inputs.properties).find(([, one]) => isObject(one) && one[OWN] === source);
		if (found) return `$inputs.${found[0]}`;
		const wanted = /([A-Za-z_]\w*)[^\w]*$/.exec(source.replace(/\(.*\)$/, ''))?.[1] ?? 'value';
		let free = wanted;
		for (let n = 2; Object.hasOwn(inputs.properties, free) || known.secrets.has(free); n++) free = `${wanted}${n}`;
		return input(free, { description: `computed: ${source}`, [OWN]: source });
	};
	const text = (value: string): string => {
		if (!hasExpression(value)) return value.replaceAll('\\{$', '{$');
		const parts = parseTemplate(value);
		const [only] = parts;
		if (parts.length === 1 && only && 'source' in only) return expression(only.source);
		return parts.map((part) => ('text' in part ? part.text : `{${expression(part.source)}}`)).join('');
	};
	const deep = (value: Json): Json =>
		typeof value === 'string'
			? text(value)
			: Array.isArray(value)
				? value.map(deep)
				: isObject(value)
					? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, deep(one)]))
					: value;
	return Object.assign(deep, { text });
}

const RUNTIME = /\{(\$[^{}]+)\}/g;
/** What a runtime expression is here; undefined for what has no equal. */
function ofRuntime(source: string, inputs: Readonly<JsonObject>): string | undefined {
	const [, step, output] = /^\$steps\.([\w.-]+)\.outputs\.([\w.-]+)$/.exec(source) ?? [];
	if (step && output) return `$steps.${nameOf(step)}.${nameOf(output)}`;
	const [, name] = /^\$inputs\.([\w.-]+)$/.exec(source) ?? [];
	if (!name) return undefined;
	const schema = inputs[name];
	const own = isObject(schema) ? schema[OWN] : undefined;
	if (typeof own === 'string' && own.startsWith('$')) return own;
	return isObject(schema) && schema.format === 'password' ? `$secret.${nameOf(name)}` : `$env.${nameOf(name)}`;
}
/** A name as a step or a value has it here. */
export const nameOf = (name: string): string => name.replace(/\W+/g, '_').replace(/^(\d)/, '_$1') || 'value';

/** Values of a workflow as steps have them here. @param tell hears expressions that have no equal */
export function fromRuntime(value: Json, inputs: Readonly<JsonObject>, tell: (source: string) => void): Json {
	const one = (source: string): string => {
		const found = ofRuntime(source, inputs);
		if (found === undefined) tell(source);
		return found === undefined ? `\\{${source}}` : `{${found}}`;
	};
	if (typeof value === 'string') {
		if (
			/^\$(steps|inputs|response|request|statusCode|url|method|outputs|workflows|sourceDescriptions|components)\b/.test(
				value
			)
		)
			return one(value);
		const marked = value.replace(RUNTIME, (_, source: string) => one(source));
		return marked === value ? value.replaceAll('{$', '\\{$') : marked;
	}
	if (Array.isArray(value)) return value.map((item) => fromRuntime(item as Json, inputs, tell));
	if (!isObject(value)) return value;
	return Object.fromEntries(
		Object.entries(value as JsonObject).map(([key, item]) => [key, fromRuntime(item, inputs, tell)])
	);
}
