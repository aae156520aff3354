import { HeronError } from '#core/errors.ts';
import { isObject, parseJson } from '#core/model/json.ts';
import { headFromData, resultFromData, type ResultHead, type ResultTail } from '#core/reports/index.ts';
import { wholeSummary, type StepResult } from '#core/run/index.ts';
import { assertFile } from './files.ts';
import { jsonLines } from './lines.ts';

/** A file that `--report json=` wrote: its head, then a step a line, then what is behind them. */
export interface ResultFile {
	file: string;
	head: ResultHead;
	tail: ResultTail;
}

export const broken = (file: string, detail: string): HeronError => new HeronError('merge.file', { file, detail });

function objectIn(file: string, text: string, what: string): Record<string, unknown> {
	try {
		const value: unknown = parseJson(text);
		if (isObject(value)) return value;
	} catch {
		// said below
	}
	throw broken(file, `${what} cannot be read: the file is no whole result of heron run --report json=FILE`);
}

/** Goes through a file, line by line: it may be larger than the memory. @param onStep hears of each step; left out where only the ends are wanted */
export async function readResult(file: string, onStep?: (result: StepResult) => Promise<void>): Promise<ResultFile> {
	assertFile(file);
	let head: ResultHead | undefined;
	let tail: ResultTail | undefined;
	let line = 0;
	for await (const text of jsonLines(file)) {
		line++;
		if (line === 1) {
			const data = objectIn(file, `${text}]}`, 'its first line');
			if (data.heron !== 1 || !isObject(data.run) || !Array.isArray(data.scenarios))
				throw broken(file, 'this is no result of heron run --report json=FILE');
			head = headFromData(data);
		} else if (text.startsWith('],')) {
			const data = objectIn(file, `{${text.slice(2)}`, 'its end') as unknown as ResultTail;
			tail = isObject(data.summary) ? { ...data, summary: wholeSummary(data.summary) } : data;
		} else if (text.trim() !== '' && onStep)
			await onStep(resultFromData(objectIn(file, text.replace(/,$/, ''), `line ${line}`)));
	}
	if (!head) throw broken(file, 'it is empty');
	if (!tail || !isObject(tail.summary))
		throw broken(file, 'it ends in the middle: the run that wrote it did not come to its end');
	return { file, head, tail };
}
