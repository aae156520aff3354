import { planDefinitions } from '#core/definitions/index.ts';
import { editYaml } from '#core/model/edit.ts';
import { loadProject } from '#core/project/index.ts';

const HEAD = 'heron: 1\ntitle: Fuzzed\n';

/** Longer than this nothing may keep the processor, in milliseconds. */
const LONGEST = 5000;

/** What is said of a try that took too long. @param start the time of the processor when it began */
export function tooLong(start: NodeJS.CpuUsage): string | undefined {
	const took = process.cpuUsage(start).user / 1000;
	return took > LONGEST ? `takes ${Math.round(took)} ms` : undefined;
}

/** Imports a definition: what is written has no problems. @returns what is wrong */
export function planned(definition: { path: string; bytes: Uint8Array }[]): string | undefined {
	const files = new Map<string, Uint8Array>([['heron.yaml', Buffer.from(HEAD)]]);
	const load = () =>
		loadProject(
			[...files]
				.filter(([path]) => path.endsWith('.yaml'))
				.map(([path, bytes]) => ({ path, text: Buffer.from(bytes).toString() })),
			new Set(files.keys()),
			(path) => files.get(path)
		);
	const { workspace } = load();
	const [plan] = planDefinitions({
		name: 'fuzzed',
		files: definition,
		workspace,
		readFile: () => undefined,
		valueOf: () => undefined,
		connection: ''
	});
	for (const { path, bytes } of plan!.files) files.set(path, bytes);
	for (const { path, value } of plan!.writes) files.set(path, Buffer.from(editYaml('', value)));
	const wrong = load().workspace.problems.find(({ file }) => file !== plan!.file);
	return wrong && `an import writes what is refused: ${wrong.file}: ${wrong.message}`;
}
