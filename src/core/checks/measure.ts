import { isObject } from '../model/json.ts';
import { parseDuration, parseSize, showDuration, showSize } from '../model/units.ts';
import type { CheckKind } from './kind.ts';
import { relationsProblem } from './relations/index.ts';

const bounds = ['below', 'above', 'atMost', 'atLeast'] as const;

const problem = (unit: string) => (value: unknown) => {
	if (!isObject(value)) return `relations are wanted, such as { below: ${unit} }`;
	const odd = Object.keys(value).find((key) => !bounds.includes(key as 'below'));
	return odd ? `"${odd}" does not fit here: ${bounds.join(', ')} do` : relationsProblem(value);
};

/** For people, and as it was measured where that is rounded: 1024 B is above 1 kB, and would show as it. */
const exactly = (short: string, read: number | undefined, value: number, unit: string): string =>
	read === value ? short : `${short} (${value} ${unit})`;

function shownTime(ms: number): string {
	const [short, whole] = [showDuration(ms), Math.round(ms)];
	return ms < 1000 ? short : exactly(short, parseDuration(short), whole, 'ms');
}

function shownSize(bytes: number): string {
	const short = showSize(bytes);
	return exactly(short, parseSize(short), bytes, 'B');
}

export const time: CheckKind<'time'> = {
	key: 'time',
	label: 'time',
	doc: 'How long the whole exchange took, connecting included.',
	example: { time: { below: '800 ms' } },
	form: 'relations',
	relations: bounds,
	problem: problem('800 ms'),
	show: (value) => shownTime(value as number),
	look: ({ view }) => ({ found: true, value: view.reply.phases.total })
};

export const size: CheckKind<'size'> = {
	key: 'size',
	label: 'size',
	doc: 'The size of the body after decoding.',
	example: { size: { atMost: '20 kB' } },
	form: 'relations',
	relations: bounds,
	problem: problem('20 kB'),
	grows: true,
	show: (value) => shownSize(value as number),
	look: ({ view }) => ({ found: true, value: view.reply.body.length })
};
