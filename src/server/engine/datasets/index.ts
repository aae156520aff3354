import { tableOf, type Dataset, type DataSpec } from '#core/datasets/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { writeJson, parseJson, type Json } from '#core/model/json.ts';
import { datasetFile } from '#core/model/rows.ts';
import { showSize } from '#core/model/units.ts';
import { parseYaml } from '#core/model/yaml.ts';
import { decodeText } from '#core/values/index.ts';
import type { DataSource } from './source.ts';
import { openWorkbook } from './workbook.ts';

export { folderSource, memorySource, withFile, type DataSource } from './source.ts';

/** What is not read row by row has to fit into memory. */
const WHOLE_LIMIT = 100_000_000;

/** Opens the datasets of a project; what was read whole is kept for the next who asks. */
export function createDatasets(source: DataSource): (spec: DataSpec) => Promise<Dataset> {
	const kept = new Map<string, Promise<Dataset>>();
	return (spec) => {
		const key = writeJson([spec.data, spec.names, spec.types, spec.read]);
		let opened = kept.get(key);
		if (!opened) {
			kept.set(key, (opened = openDataset(spec, source)));
			opened.catch(() => kept.delete(key));
		}
		return opened;
	};
}

/** @throws HeronError dataset.* */
async function openDataset(spec: DataSpec, source: DataSource): Promise<Dataset> {
	const found = datasetFile(spec.data, source.files());
	if ('several' in found)
		throw new HeronError('dataset.several', { name: spec.data, files: found.several.join(' and ') });
	if ('known' in found)
		throw new HeronError('dataset.none', { name: spec.data, nearest: didYouMean(spec.data, found.known) });
	const { path } = found;
	const file = path.slice('datasets/'.length);
	const ending = file.slice(file.lastIndexOf('.') + 1).toLowerCase();
	if (['csv', 'tsv', 'txt'].includes(ending)) return (await import('./csv.ts')).openCsv(path, spec, source);
	const size = source.size(path) ?? 0;
	if (size > WHOLE_LIMIT)
		throw new HeronError('dataset.large', { file, limit: `${showSize(WHOLE_LIMIT)}; CSV is read row by row` });
	if (ending === 'xlsx' || ending === 'ods') return openWorkbook(file, source.whole(path), spec);
	if (ending === 'json' || ending === 'yaml' || ending === 'yml')
		return tableOf(file, plainData(file, ending, source.whole(path)), spec);
	throw new HeronError('dataset.kind', { file });
}

function plainData(file: string, ending: string, bytes: Uint8Array): Json {
	const { text } = decodeText(bytes);
	if (ending === 'json') {
		try {
			return parseJson(text);
		} catch (cause) {
			throw new HeronError('dataset.syntax', { file, detail: `this is not JSON: ${textOf(cause)}` }, { cause });
		}
	}
	const parsed = parseYaml(file, text);
	const [problem] = parsed.problems;
	if (problem)
		throw new HeronError('dataset.syntax', { file, detail: `line ${problem.line ?? 1}: ${problem.message}` });
	return parsed.value;
}
