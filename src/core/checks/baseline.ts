import { compareApproved, isBaselineName, isXmlText } from '../baselines/index.ts';
import { textOf } from '../errors.ts';
import { compileXmlPlaces, xpathOf } from '../model/xml-data.ts';
import { differenceSentence } from '../diff/index.ts';
import { jsonPathOf, selectorProblem } from '../selectors/index.ts';
import type { CheckKind } from './kind.ts';

const MOST_SHOWN = 5;

const selectors = (value: unknown): string | undefined => {
	if (!Array.isArray(value)) return 'a list of JSONPaths is wanted, or of plain XPaths';
	for (const one of value) {
		if (typeof one !== 'string' || !/^[$/]/.test(one))
			return `"${String(one)}" is not a JSONPath, such as $..updatedAt, nor a path of XML, such as //updatedAt`;
		if (one.startsWith('/')) {
			const problem = xmlPathProblem(one);
			if (problem) return problem;
			continue;
		}
		const problem = selectorProblem(one);
		if (problem) return problem;
	}
	return undefined;
};
function xmlPathProblem(path: string): string | undefined {
	try {
		compileXmlPlaces(path);
	} catch (error) {
		return textOf(error);
	}
}
const LIST = { type: 'array', items: { type: 'string' } };

export const baseline: CheckKind<'baseline'> = {
	key: 'baseline',
	whole: () => true,
	label: 'baseline',
	doc: 'Equal to an approved reply, but for what is ignored. The reply is approved on the screen; it is a file in baselines/, for all environments or for one.',
	example: { baseline: 'bookings-list', ignore: ['$..updatedAt'] },
	form: 'value',
	settings: {
		ignore: {
			doc: 'Places that are of no interest, as JSONPaths; of XML as plain XPaths.',
			schema: LIST,
			problem: selectors
		},
		unordered: { doc: 'Lists whose order is of no interest, in the same way.', schema: LIST, problem: selectors }
	},
	problem: (value) => (isBaselineName(value) ? undefined : 'a name is wanted: letters, digits, _ . and -'),
	look: ({ view }) => ({ found: true, value: view.text }),
	judge(_, expected, { view, approved, redact = (text) => text }, settings) {
		const name = String(expected);
		const found = approved?.(name);
		if (!found) throw new Error(`no reply is approved as ${name} yet: approve this one`);
		const list = (value: unknown) => (Array.isArray(value) ? value.map(String) : []);
		const differences = compareApproved(found, redact(view.text), {
			ignore: list(settings.ignore),
			unordered: list(settings.unordered)
		});
		const first = differences[0];
		if (!first) return { holds: true, received: 'it is the same' };
		const pathOf = isXmlText(view.text) ? xpathOf : jsonPathOf;
		const words = differences.slice(0, MOST_SHOWN).map((one) => differenceSentence(one, undefined, pathOf));
		const more = differences.length > MOST_SHOWN ? `; and ${differences.length - MOST_SHOWN} more` : '';
		const place = first.kind === 'removed' ? first.path.slice(0, -1) : first.path;
		return { holds: false, received: words.join('; ') + more, place: pathOf(place) };
	}
};
