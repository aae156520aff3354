import { textOf } from '#core/errors.ts';
import { parseStep } from '#core/steps/index.ts';
import { maskOf } from '#core/model/mask.ts';
import { allScenarios, emptyMemory, scopeOf } from '#core/run/index.ts';
import { Raw } from '#core/values/index.ts';
import { contextOf, type Handler, recall, withRow } from './context.ts';

export const tryIt: Handler<'try'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const chosen = allScenarios(context.workspace).find((one) => one.key === order.scenario);
	const memory = chosen ? await recall(job, chosen, order.outputs, context) : emptyMemory(context.ports);
	const { text } = order;
	try {
		const here = chosen ? await withRow(context, chosen, parseStep({}), order.row ?? 1, memory) : context;
		let touched = false;
		const hider = {
			text: (one: string) => redactor.text(one),
			made: (name: string, one: string) => redactor.made(name, one),
			touched: () => void (touched = true)
		};
		const scope = { ...scopeOf(here, memory), hider };
		const value = await (text.includes('{$')
			? here.evaluator.value(text, scope)
			: here.evaluator.expression(text, scope));
		const plain = value instanceof Raw ? value.text : value;
		// even whether it is there, or true, would tell of a secret
		if (touched && typeof plain !== 'string') return { value: maskOf('secret.made') };
		return plain === undefined ? { trouble: 'it gives nothing' } : { value: redactor.deep(plain) };
	} catch (error) {
		return redactor.record({ trouble: textOf(error) });
	}
};
