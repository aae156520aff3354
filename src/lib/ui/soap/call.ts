import { isObject, same, type Json, type JsonObject } from '#core/model/json.ts';
import { parseSoap, type SoapSpec } from '#core/soap/index.ts';
import {
	hideExpressions,
	parseXml,
	patchEnvelope,
	readable,
	readEnvelope,
	sameXml,
	withValue,
	writeEnvelope,
	type SoapModel,
	type ValueProblem
} from '#core/soap/index.ts';
import { escapeXml, hasExpression, parseTemplate } from '#core/values/index.ts';

/** Texts are escaped, expressions stay as they are written. */
function escapeAround(text: string): string {
	if (!hasExpression(text)) return escapeXml(text);
	try {
		return parseTemplate(text)
			.map((part) => ('text' in part ? escapeXml(part.text) : `{${part.source}}`))
			.join('');
	} catch {
		return escapeXml(text);
	}
}

const hide = (text: string) => {
	try {
		const expressions = parseTemplate(text).filter(
			(part): part is { source: string; start: number; end: number } => 'source' in part
		);
		return hideExpressions(text, expressions);
	} catch {
		return { hidden: text, show: (same_: string) => same_ };
	}
};

/** A call as form and as envelope, in step. */
export interface CallView {
	spec: SoapSpec;
	values: Json;
	headers: JsonObject;
	/** The envelope, expressions as they are written. */
	text: string;
	problems: ValueProblem[];
	/** What only the envelope holds, in words. */
	beyond: string[];
	/** Why the envelope cannot be read; then the form shows nothing. */
	trouble: string;
}

const written = (model: SoapModel, values: Json, headers: JsonObject, unknown = false) =>
	writeEnvelope(model, { values, headers }, { escape: escapeAround, open: hasExpression, unknown });

export function viewCall(model: SoapModel, value: Json): CallView {
	const spec = parseSoap(value);
	if (spec.envelope === undefined) {
		const headers = spec.headers ?? {};
		const { text, problems } = written(model, spec.values, headers, spec.unknown);
		return { spec, values: spec.values, headers, text, problems, beyond: [], trouble: '' };
	}
	const base = { spec, text: spec.envelope, problems: [], beyond: [] };
	try {
		const { hidden, show } = hide(spec.envelope);
		const read = readEnvelope(model, hidden, show);
		const headers = read.headers ?? {};
		const problems = written(model, read.values, headers).problems;
		const other = read.version === model.operation.version ? [] : [`an envelope of SOAP ${read.version}`];
		return { ...base, values: read.values, headers, problems, beyond: [...other, ...read.beyond], trouble: '' };
	} catch (error) {
		return { ...base, values: {}, headers: {}, trouble: (error as Error).message };
	}
}

const without = (value: Json, ...names: string[]): JsonObject =>
	Object.fromEntries(
		Object.entries(isObject(value) ? (value as JsonObject) : {}).filter(([name]) => !names.includes(name))
	);

/** The call with another envelope: as values where they hold all of it, else as it is written. */
export function withEnvelope(model: SoapModel, value: Json, text: string): JsonObject {
	const rest = without(value, 'values', 'headers', 'envelope');
	try {
		const { hidden, show } = hide(text);
		const read = readEnvelope(model, hidden, show);
		if (read.beyond.length === 0 && read.version === model.operation.version) {
			const again = hide(written(model, read.values, read.headers ?? {}).text);
			// expressions are told apart by their number: the same ones stand in the same order
			if (
				sameXml(parseXml(hidden), parseXml(again.hidden)) &&
				same(expressionsOf(text), expressionsOf(again.show(again.hidden)))
			)
				return { ...rest, values: read.values, ...(read.headers ? { headers: read.headers } : {}) };
		}
	} catch {
		// kept as it is: it can be sent all the same
	}
	return { ...rest, envelope: text };
}
const expressionsOf = (text: string): string[] =>
	parseTemplate(text).flatMap((part) => ('source' in part ? [part.source] : []));

/** The call with one value changed; an envelope that was written by hand keeps all else. */
export function withFormValue(
	model: SoapModel,
	value: Json,
	path: (string | number)[],
	next: Json | undefined
): JsonObject {
	const spec = parseSoap(value);
	// of an envelope that was written by hand the values are read first
	const view =
		spec.envelope === undefined
			? { spec, text: '', values: spec.values, headers: spec.headers ?? {} }
			: viewCall(model, value);
	const inHeaders = path[0] === 'headers' && model.input.headers.length > 0;
	const headers = inHeaders ? (withValue(view.headers, path.slice(1), next) as JsonObject) : view.headers;
	const values = inHeaders ? view.values : withValue(view.values, path, next);
	const rest = without(value, 'values', 'headers', 'envelope');
	if (view.spec.envelope === undefined)
		return { ...rest, values, ...(Object.keys(headers).length > 0 ? { headers } : {}) };
	const anew = written(model, values, headers).text;
	const patched = inHeaders ? undefined : patchEnvelope(hide(view.text), hide(anew), path, next);
	return withEnvelope(model, value, patched ?? anew);
}

/** What somebody typed, as a number or truth value where the type has them. */
export const typed = (primitive: string | undefined, text: string): Json =>
	primitive === 'boolean' || primitive === 'number' ? readable(text) : text;
