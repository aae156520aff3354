import { isObject, type Json } from '../../model/json.ts';
import { TAKES, type Kept, type Take } from '../../model/step.ts';
import { asText } from '../../model/written.ts';
import { selectorProblem } from '../../selectors/index.ts';
import { hasExpression } from '../../values/index.ts';
import type { StepField } from '../kind.ts';

type Report = Parameters<StepField['check']>[1];

/** Fields of a value that is kept with more than a selector. */
const KEEP_FIELDS = ['from', 'take', 'default', 'file', 'secret'];
const FILE_NAME = /^\w[\w.-]*$/;

function checkKept(value: Record<string, unknown>, report: Report): void {
	// `{ header: Link }`, as a check has it
	const alone = Object.entries(value).find(([key]) => !KEEP_FIELDS.includes(key));
	const meant = alone && typeof value.from !== 'string' && `${alone[0]}:${String(alone[1])}`;
	if (meant && selectorProblem(meant) === undefined)
		return report([alone[0]], `unknown key "${alone[0]}"; did you mean the selector "${meant}"?`);
	for (const key of Object.keys(value))
		if (!KEEP_FIELDS.includes(key)) report([key], `unknown key "${key}"; known are ${KEEP_FIELDS.join(', ')}`);
	const problem = typeof value.from === 'string' ? selectorProblem(value.from) : 'a selector is wanted';
	if (problem) report(['from'], problem);
	if (value.take !== undefined && !TAKES.includes(value.take as Take))
		report(['take'], `one of ${TAKES.join(', ')} is wanted`);
	if (
		value.file !== undefined &&
		!(typeof value.file === 'string' && (hasExpression(value.file) || FILE_NAME.test(value.file)))
	)
		report(['file'], 'the name of a file is wanted, such as permit.pdf');
	if (value.secret !== undefined && typeof value.secret !== 'boolean') report(['secret'], 'true or false is wanted');
}

function checkKeep(value: unknown, report: Report): void {
	if (!isObject(value)) return report([], 'names with selectors are wanted, such as reference: $.reference');
	for (const [name, selector] of Object.entries(value)) {
		if (!/^[A-Za-z_]\w*$/.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
		if (isObject(selector)) {
			checkKept(selector, (at, message) => report([name, ...at], message));
			continue;
		}
		const problem = typeof selector === 'string' ? selectorProblem(selector) : 'a selector is wanted';
		if (problem) report([name], problem);
	}
}

/** Values that later steps use: of send steps, and of those that receive. */
export const keep: StepField = {
	name: 'keep',
	doc: 'Values kept for later steps: name and selector; with { from, take: first | last | all | count | address, default, file, secret } for more. What says who calls is hidden like a secret, and so is what is marked with secret: true; secret: false shows it.',
	schema: {
		type: 'object',
		additionalProperties: {
			anyOf: [
				{ type: 'string' },
				{
					type: 'object',
					properties: {
						from: { type: 'string' },
						take: { enum: [...TAKES] },
						default: {},
						file: { type: 'string' },
						secret: { type: 'boolean' }
					},
					required: ['from'],
					additionalProperties: false
				}
			]
		}
	},
	check: checkKeep
};

/** The values that a step keeps, as its field has them. */
export const parseKeep = (given: unknown): Kept[] =>
	isObject(given) ? Object.entries(given).map(([name, selector]) => parseKept(name, selector)) : [];

function parseKept(name: string, given: unknown): Kept {
	if (!isObject(given)) return { name, selector: asText(given) };
	const take = TAKES.find((one) => one === given.take);
	return {
		name,
		selector: asText(given.from),
		...(take ? { take } : {}),
		...(given.default === undefined ? {} : { otherwise: given.default as Json }),
		...(given.file === undefined ? {} : { file: asText(given.file) }),
		...(typeof given.secret === 'boolean' ? { secret: given.secret } : {})
	};
}
