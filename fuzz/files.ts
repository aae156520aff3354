import { HeronError, type Problem } from '#core/errors.ts';
import { planDefinitions } from '#core/definitions/index.ts';
import { createWorkspace, loadProject } from '#core/project/index.ts';
import { writeJson } from '#core/model/json.ts';
import { createDatasets, memorySource } from '#server/engine/index.ts';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Family } from './family.ts';
import { mutate, type Draw } from './mutate.ts';

const DEMO = join(process.cwd(), 'demo/reedmere');
const demoFiles = (): Map<string, Buffer> =>
	new Map(
		readdirSync(DEMO, { recursive: true, withFileTypes: true })
			.filter((entry) => entry.isFile())
			.map((entry) => {
				const full = join(entry.parentPath, entry.name);
				return [full.slice(DEMO.length + 1), readFileSync(full)];
			})
	);
const hasPlace = (message: string): boolean =>
	/line \d+|:\d+:\d+|\(\d+:\d+\)|\bsheet\b|\bat \S+:|row \d+/.test(message);

/** Files of a project: whatever stands in one, the others go on, and each problem has its place. */
export const projectFiles: Family = {
	name: 'files of a project',
	async open() {
		const files = demoFiles();
		const yaml = [...files.keys()].filter((path) => path.endsWith('.yaml') && !path.startsWith('definitions/'));
		const texts = yaml.map((path) => files.get(path)!.toString('utf8'));
		return {
			once(draw) {
				const path = draw.of(yaml);
				const text = mutate(files.get(path)!.toString('utf8'), draw, texts);
				const sources = yaml.map((one) => ({
					path: one,
					text: one === path ? text : files.get(one)!.toString('utf8')
				}));
				const { workspace } = loadProject(sources, new Set(files.keys()), (one) => files.get(one));
				writeJson([workspace.problems, workspace.warnings]);
				const placeless = [...workspace.problems, ...workspace.warnings].find(
					(problem: Problem) => problem.file === path && !(problem.line && problem.line > 0)
				);
				return Promise.resolve(placeless && `no place: ${placeless.message}`);
			}
		};
	}
};

/** Definitions: taken, or refused in words with a place. */
export const definitions: Family = {
	name: 'definitions',
	async open() {
		const files = demoFiles();
		const wsdl = [...files.keys()].filter((path) => /^definitions\/.*\.(wsdl|xsd)$/.test(path));
		const openapi = files.get('definitions/moorings.yaml')!.toString('utf8');
		const { load } = await import('js-yaml');
		const json = JSON.stringify(load(openapi), null, 2);
		const workspace = createWorkspace([], new Set());
		const plan = (list: { path: string; bytes: Uint8Array }[]) =>
			planDefinitions({
				...{ name: 'fuzzed', files: list, workspace, connection: '', address: '' },
				readFile: () => undefined,
				valueOf: () => undefined
			});
		return {
			once(draw) {
				const kind = draw.below(3);
				const chosen = draw.of(wsdl);
				const list =
					kind === 0
						? wsdl.map((path) => ({
								path,
								bytes: Buffer.from(
									path === chosen ? mutate(files.get(path)!.toString('utf8'), draw) : files.get(path)!.toString('utf8')
								)
							}))
						: [
								{
									path: kind === 1 ? 'fuzzed.json' : 'fuzzed.yaml',
									bytes: Buffer.from(mutate(kind === 1 ? json : openapi, draw))
								}
							];
				try {
					writeJson(plan(list).length);
				} catch (error) {
					if (!(error instanceof HeronError)) throw error;
					// what is no definition at all is said of the file as a whole
					const whole =
						/no definition|holds no|names no|neither|is no |wanted|imports|refers|lacks|not known|it has no paths|is not XML|nested too deep|its root|its version|it is empty/i;
					if (!hasPlace(error.message) && !whole.test(error.message))
						return Promise.resolve(`no place: ${error.message}`);
				}
				return Promise.resolve(undefined);
			}
		};
	}
};

/** Datasets: rows, or a refusal in words with a place. */
export const datasets: Family = {
	name: 'datasets',
	async open() {
		const { utils, write } = await import('@e965/xlsx');
		const book = utils.book_new();
		utils.book_append_sheet(
			book,
			utils.aoa_to_sheet([
				['berth', 'nights', 'from'],
				['A-01', 3, '2027-05-14'],
				['B-07', 12.5, '2027-06-01']
			]),
			'Berths'
		);
		const bytes = write(book, { type: 'buffer', bookType: 'xlsx' }) as Buffer;
		const csv = readFileSync(join(DEMO, 'datasets/office-list.csv'), 'utf8');
		const json = JSON.stringify(
			[
				{ berth: 'A-01', nights: 3 },
				{ berth: 'B-07', list: [1, { a: null }] }
			],
			null,
			1
		);
		const given = (draw: Draw): [string, Uint8Array] => {
			const kind = draw.of(['f.csv', 'f.json', 'f.yaml', 'f.xlsx', 'f.tsv']);
			if (kind === 'f.xlsx') {
				const broken = Uint8Array.from(bytes);
				for (let n = draw.below(12); n > 0; n--) broken[draw.below(broken.length)] = draw.below(256);
				return [kind, broken.subarray(0, draw.below(3) === 0 ? draw.below(broken.length) : broken.length)];
			}
			return [kind, Buffer.from(mutate(kind === 'f.json' || kind === 'f.yaml' ? json : csv, draw))];
		};
		return {
			async once(draw) {
				const [file, content] = given(draw);
				const open = createDatasets(memorySource(new Map([[`datasets/${file}`, content]])));
				try {
					const dataset = await open({ data: file, names: {}, types: {}, read: {} });
					let rows = 0;
					for await (const row of dataset.rows()) {
						writeJson(row);
						if (++rows > 2000) break;
					}
				} catch (error) {
					if (!(error instanceof HeronError)) throw error;
					const whole = /workbook|no list|a list with an object|is not known|columns|empty|too large|sheet/;
					if (!hasPlace(error.message) && !whole.test(error.message)) return `no place: ${error.message}`;
				}
				return undefined;
			}
		};
	}
};
