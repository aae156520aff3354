import type { DefinitionFormat } from '../../../src/core/definitions/formats/index.ts';

export const madeUp: DefinitionFormat = {
	key: 'timetable',
	fits: ({ path }) => path.endsWith('.timetable'),
	names: (text) => (text.startsWith('timetable') ? ['other.timetable'] : undefined),
	plan: ({ name }, documents) => [
		{
			...{ name, file: documents[0]!.path, files: [], writes: [], made: [], collects: false, bound: [], offers: [] },
			...{ added: [], kept: [], operations: [], changes: [], fixes: [], problems: [], services: [] }
		} as never
	]
};
