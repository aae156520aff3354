import { HeronError } from '#core/errors.ts';
import { writeJson } from '#core/model/json.ts';
import { parseRows } from '#core/model/rows.ts';
import { chosenRows, emptyMemory, scopeOf } from '#core/run/index.ts';
import type { DatasetAnswer } from '../protocol.ts';
import { contextOf, type Handler } from './context.ts';

const PAGE = 1000;
export const dataset: Handler<'dataset'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const spec = parseRows(order.rows);
	if (!spec) throw new HeronError('dataset.wanted');
	const opened = await context.ports.dataset(spec);
	const { file, columns, notes, delimiter } = opened;
	const answer: DatasetAnswer = {
		file,
		columns,
		notes,
		...(delimiter ? { delimiter } : {}),
		count: 0,
		chosen: 0,
		numbers: [],
		rows: [],
		hidden: false
	};
	const tools = { evaluator: context.evaluator, scope: scopeOf(context, emptyMemory(context.ports)), seed: 1 };
	const last = order.from + Math.min(order.count, PAGE);
	for await (const row of opened.rows()) {
		answer.count++;
		if (answer.count > order.from && answer.count <= last) answer.rows.push(row);
	}
	for await (const { number } of chosenRows({ spec, dataset: opened }, tools)) {
		answer.chosen++;
		if (answer.numbers.length < PAGE) answer.numbers.push(number);
	}
	const rows = answer.rows.map(({ values, ...row }) => ({ ...redactor.record(row), values: redactor.deep(values) }));
	answer.hidden = rows.some(({ values }, index) => writeJson(values) !== writeJson(answer.rows[index]!.values));
	return { ...redactor.record(answer), rows };
};
