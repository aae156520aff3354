import type { Dataset, DataSpec } from '#core/datasets/index.ts';
import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { writeJson } from '#core/model/json.ts';
import { DATASET_ENDINGS, datasetFile, type DatasetEnding } from '#core/model/rows.ts';
import type { DataSource } from './source.ts';
import { fileOf } from './whole.ts';

export { folderSource, memorySource, withFile, type DataSource } from './source.ts';

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
	const ending = path.slice(path.lastIndexOf('.') + 1).toLowerCase();
	if (!isReadable(ending))
		throw new HeronError('dataset.kind', { file: fileOf(path), endings: DATASET_ENDINGS.join(', ') });
	const open = await readers[ending]();
	return open(path, spec, source);
}

type Open = (path: string, spec: DataSpec, source: DataSource) => Dataset | Promise<Dataset>;
const csv = async (): Promise<Open> => (await import('./csv.ts')).openCsv;
const json = async (): Promise<Open> => (await import('./plain.ts')).openJson;
const yaml = async (): Promise<Open> => (await import('./plain.ts')).openYaml;
const workbook = async (): Promise<Open> => (await import('./workbook.ts')).openWorkbook;

/** What reads a dataset, by the ending of its file; fetched with the first one. */
const readers: Record<DatasetEnding | 'txt', () => Promise<Open>> = {
	...{ csv, tsv: csv, txt: csv },
	...{ json, yaml, yml: yaml },
	...{ xlsx: workbook, ods: workbook }
};
const isReadable = (ending: string): ending is keyof typeof readers => Object.hasOwn(readers, ending);
