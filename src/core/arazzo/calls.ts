import type { JsonObject } from '../model/json.ts';
import { freeName } from '../model/path.ts';
import type { SendSpec } from '../model/step.ts';
import { parseTemplate } from '../values/index.ts';

/** The file of calls that no definition knows. */
export const CALLS = 'calls.openapi.json';

/** An operation by its place in a document (Arazzo 1.0.1 section 4.6.5, JSON Pointer). */
export const pathReference = (source: string, template: string, method: string): string =>
	`{$sourceDescriptions.${source}.url}#/paths/${template.replaceAll('~', '~0').replaceAll('/', '~1')}/${method.toLowerCase()}`;

/** A target as a template, and the values that stand in it. */
export function templateOf(target: string): { template: string; values: { name: string; value: string }[] } {
	const values: { name: string; value: string }[] = [];
	const path = target.replace(/^https?:\/\/[^/{]*/i, '');
	const template = parseTemplate(path)
		.map((part) => {
			if ('text' in part) return part.text;
			const wanted = /([A-Za-z_]\w*)\W*$/.exec(part.source)?.[1] ?? 'value';
			const name = freeName(
				wanted,
				values.map((one) => one.name)
			);
			values.push({ name, value: `{${part.source}}` });
			return `{${name}}`;
		})
		.join('')
		.split(/[?#]/)[0]!;
	return { template: template.startsWith('/') ? template : `/${template}`, values };
}

/** Calls that no definition knows, as an OpenAPI document: their paths alone. */
export class Calls {
	readonly #paths: Record<string, JsonObject> = {};
	readonly #servers = new Set<string>();

	/** The operation that a call is in the document. */
	refer(send: SendSpec, base: string, sourceFor: (file: string) => string): JsonObject {
		const source = sourceFor(CALLS);
		const { template } = templateOf(send.target);
		const origin = /^https?:\/\/[^/{]*/i.exec(send.target)?.[0] ?? base;
		if (/^https?:/i.test(origin)) this.#servers.add(origin.replace(/\/+$/, ''));
		const names = [...template.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!);
		const item = (this.#paths[template] ??= {});
		item[send.method.toLowerCase()] = {
			...(names.length > 0
				? { parameters: names.map((name) => ({ name, in: 'path', required: true, schema: {} })) }
				: {}),
			responses: { default: { description: 'not described' } }
		};
		return { operationPath: pathReference(source, template, send.method) };
	}

	/** The document; undefined where there are none. */
	document(title: string): JsonObject | undefined {
		if (Object.keys(this.#paths).length === 0) return undefined;
		return {
			openapi: '3.1.0',
			info: { title: `Calls of ${title}`, version: '1.0.0' },
			...(this.#servers.size > 0 ? { servers: [...this.#servers].map((url) => ({ url })) } : {}),
			paths: this.#paths
		};
	}
}
