import type { CheckKind } from './kind.ts';

const TOLD = 5;

/** A place without the envelope around it, which is the same everywhere. */
const shortPath = (path: string): string => path.replace(/^\/Envelope\/Body\//, '').replace(/^\/\//, '');

export const contract: CheckKind = {
	key: 'contract',
	whole: true,
	label: 'contract',
	doc: 'The reply against the definition of the call. By OpenAPI: status, headers, media type, and the body by its schema. By WSDL: the version and form of the envelope, and its content; of a fault, its detail.',
	example: { contract: true },
	form: 'value',
	problem: (value) => (value === true ? undefined : 'true is wanted: contract: true'),
	look: ({ view }) => ({ found: view.reply.body.length > 0, value: undefined }),
	async judge(_, __, { contract: faultsOf }) {
		if (!faultsOf) throw new Error('this step has no definition to be held against');
		const found = await faultsOf();
		const notes = found.filter(({ note }) => note).map(({ message }) => `; ${message}`);
		const faults = found.filter(({ note }) => !note);
		const [first] = faults;
		const expected = 'as the definition has it';
		if (!first) return { holds: true, expected, received: `it fits${notes.join('')}` };
		const lines = faults
			.slice(0, TOLD)
			.map(({ line, path, message }) =>
				line === undefined
					? `${path ? `${path} ` : ''}${message}`
					: `line ${line}${path ? `, ${shortPath(path)}` : ''}: ${message}`
			);
		const more = faults.length > TOLD ? `; and ${faults.length - TOLD} more` : '';
		return { holds: false, expected, received: lines.join('; ') + more, ...(first.path ? { place: first.path } : {}) };
	}
};
