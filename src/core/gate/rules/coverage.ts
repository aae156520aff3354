import type { TallyKind } from '../../documents/suite.ts';
import { percentOf } from '../../tallies/index.ts';
import type { GateRule } from '../rule.ts';

const WORDS: Record<TallyKind, string> = {
	...{ operation: 'operations', answer: 'answers', parameter: 'parameters', value: 'values', body: 'bodies' },
	...{ beyond: 'values beyond what is allowed', choice: 'alternatives' },
	...{ field: 'fields', security: 'ways to sign in', all: 'all of it' }
};

export const coverage: GateRule = {
	key: 'coverage',
	doc: 'How many of a hundred have to be touched of the definitions that are called: operation, answer, parameter, value, beyond, body, field, choice, security, all.',
	sentence: ({ coverage = {} }) =>
		`of the definitions that are called at least ${Object.entries(coverage)
			.map(([kind, least]) => `${least} % of the ${WORDS[kind as TallyKind]}`.replace('the all of it', 'all'))
			.join(', ')} are touched`,
	judge(gate, { coverage }) {
		if (!gate.coverage) return undefined;
		if (!coverage || coverage.length === 0)
			return { holds: false, because: 'no call is one of a definition', places: [] };
		const short = Object.entries(gate.coverage).flatMap(([kind, least]) => {
			const found = coverage.find((one) => one.kind === kind);
			// of what there is nothing of nothing is missing
			const share = found ? percentOf(found) : 100;
			return share < least ? [`${found!.touched} of ${found!.all} ${WORDS[kind as TallyKind]}, ${share} %`] : [];
		});
		const measured = coverage
			.filter(({ kind }) => gate.coverage![kind] !== undefined)
			.map(({ kind, touched, all }) => `${touched} of ${all} ${WORDS[kind]}`);
		return { holds: short.length === 0, because: (short.length > 0 ? short : measured).join('; '), places: [] };
	}
};
