import { tableOf, type Dataset, type DataSpec } from '#core/datasets/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { parseJson, type Json } from '#core/model/json.ts';
import { parseYaml } from '#core/model/yaml.ts';
import { decodeText } from '#core/values/index.ts';
import type { DataSource } from './source.ts';
import { fileOf, wholeFile } from './whole.ts';

/** A list of objects in JSON (RFC 8259). @throws HeronError dataset.* */
export const openJson = (path: string, spec: DataSpec, source: DataSource): Dataset =>
	tableOf(fileOf(path), jsonIn(fileOf(path), decodeText(wholeFile(path, source)).text), spec);

/** A list of objects in YAML. @throws HeronError dataset.* */
export const openYaml = (path: string, spec: DataSpec, source: DataSource): Dataset =>
	tableOf(fileOf(path), yamlIn(fileOf(path), decodeText(wholeFile(path, source)).text), spec);

function jsonIn(file: string, text: string): Json {
	try {
		return parseJson(text);
	} catch (cause) {
		throw new HeronError('dataset.syntax', { file, detail: `this is not JSON: ${textOf(cause)}` }, { cause });
	}
}

function yamlIn(file: string, text: string): Json {
	const { problems, value } = parseYaml(file, text);
	const [problem] = problems;
	if (problem)
		throw new HeronError('dataset.syntax', { file, detail: `line ${problem.line ?? 1}: ${problem.message}` });
	return value;
}
