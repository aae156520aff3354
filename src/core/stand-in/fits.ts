import { isPaused, judge, type JudgeTools } from '../checks/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { Answer } from '../documents/stand-in.ts';
import { reasonOf, type Scope } from '../values/index.ts';
import type { Reading } from './asked.ts';
import { rowKey, rowsName } from './seeds.ts';
import type { Work } from './work.ts';

const judging = (
	{ evaluator, ports, definitions }: Work,
	reading: Reading,
	path: Record<string, string>,
	scope: Scope
): JudgeTools => ({
	view: reading.view,
	asked: { path, query: reading.query },
	resolve: (value) => evaluator.deep(value, scope),
	expression: (source) => evaluator.expression(source, scope),
	reason: (source) => reasonOf(source, scope),
	now: () => ports.now(),
	validate: (value, file) => ports.validateJson(value, file),
	contract: () => definitions.requestFaults(reading)
});

/** Why an answer does not fit a request; or its row, where it does. */
export async function fits(
	work: Work,
	answer: Answer,
	reading: Reading,
	path: Record<string, string>
): Promise<{ row?: JsonObject } | string> {
	if (answer.must.length === 0 && !answer.row) return {};
	const { evaluator, memory, ports, seeds } = work;
	const scope = work.scope(reading, path, { asked: (memory.counts.get(answer.id) ?? 0) + 1 });
	let row: JsonObject | undefined;
	if (answer.row) {
		const values: Json[] = [];
		for (const value of Object.values(answer.row.by)) values.push(await evaluator.deep(value as Json, scope));
		row = seeds.rows.get(rowsName(answer.row))?.get(rowKey(values));
		if (!row) return `no row of ${answer.row.from} has ${Object.keys(answer.row.by).join(', ')} so`;
		scope.names.row = row;
	}
	const tools = judging(work, reading, path, scope);
	for (const [index, check] of answer.must.entries()) {
		if (isPaused(check, ports.now())) continue;
		const wrong = (await judge(check, index, tools)).find(({ holds }) => !holds);
		if (wrong)
			return `${wrong.subject} ${wrong.relation === check.kind ? '' : `${wrong.relation} `}${wrong.expected}: ${wrong.error ?? `it is ${wrong.received}`}`;
	}
	return row ? { row } : {};
}
