import { HeronError, textOf } from '../errors.ts';
import type { JsonObject } from '../model/json.ts';
import type { Answer } from '../documents/stand-in.ts';
import { readAsked, type Asked } from './asked.ts';
import { give } from './give.ts';
import { namesIn } from '../model/route.ts';
import { rowsName } from './seeds.ts';
import { EMPTY, type Work } from './work.ts';

/** What of an answer cannot be as it is written. */
export interface Refusal {
	/** Its entry in the file, from 0. */
	entry: number;
	id: string;
	/** Of several in turn which one, from 1; 0 where there is one. */
	turn: number;
	message: string;
}

/** Of one answer so many reasons are told. */
const MOST_SHOWN = 5;
/** Names whose values depend on what is asked, and those that an environment gives. */
const ASKED = /\$(request|path|query|stored|page|state|row|steps|response)\b/;
const GIVEN = /\$(env|secret)\b/;

/** Whether an error would come whatever is asked. */
const isCertain = (error: unknown, environment: boolean): boolean => {
	if (!(error instanceof HeronError)) return false;
	const { name } = error.values;
	if (error.code === 'value.missing') return !ASKED.test(String(name)) && (environment || !GIVEN.test(String(name)));
	return ['value.syntax', 'value.unclosed', 'value.cycle', 'value.header', 'file.missing'].includes(error.code);
};

/** A request that an answer would fit, as far as its path tells. */
const plainAsked = ({ method, path }: Answer, base: string): Asked => ({
	method: method || 'GET',
	target: base + path.replace(/\{\+?[^}]*\}/g, '1'),
	headers: [],
	body: EMPTY,
	origin: 'http://127.0.0.1'
});

/**
 * Answers as they would be, held against the definition: what it refuses, what it does not know, and expressions that fail
 * whatever is asked. Requests are made of the definition.
 * @param work of its own: what it remembers is spoiled
 * @param environment whether values of an environment are there
 */
export async function refusedAnswers(work: Work, environment: boolean): Promise<Refusal[]> {
	const { spec, definitions, memory, ports, workspace } = work;
	const out: Refusal[] = [];
	for (const answer of spec.answers) {
		if (answer.off || answer.forward !== undefined) continue;
		const defined = definitions.asked(answer);
		if (spec.definition && !defined) {
			const message = `the definition knows no ${answer.operation || `${answer.method} ${answer.path}`.trim()}`;
			out.push({ entry: answer.entry, id: answer.id, turn: 0, message });
			continue;
		}
		const asked = defined ?? plainAsked(answer, spec.base);
		const turns = Math.max(1, answer.turns.length);
		let before = 0;
		for (let turn = 0; turn < turns; turn++) {
			memory.counts.set(answer.id, before);
			before += answer.turns[turn]?.times ?? 1;
			const say = (message: string) =>
				void out.push({ entry: answer.entry, id: answer.id, turn: turns > 1 ? turn + 1 : 0, message });
			const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
			try {
				const given = (await give(work, answer, reading, pathOf(answer, work), rowOf(answer, work), true)).given;
				if (!spec.definition || answer.fault) continue;
				const faults = await definitions.answerFaults(reading, given);
				for (const { message, path } of (faults ?? []).slice(0, MOST_SHOWN)) say(path ? `${path} ${message}` : message);
			} catch (error) {
				if (isCertain(error, environment)) say(textOf(error));
			} finally {
				if (asked.body.length > 0) reading.view.close();
			}
		}
	}
	return out;
}

/** Values of its path: the key of a thing that is there, where it asks for one. */
function pathOf({ parts, store }: Answer, { spec, seeds }: Work): Record<string, string> {
	const own = store && spec.stores.get(store.name);
	const key = own && seeds.stores.get(own.name)?.[0]?.[own.key];
	return Object.fromEntries(
		namesIn(parts).map((name) => [
			name,
			name === own?.key && key !== undefined && key !== null ? String(key as string) : '1'
		])
	);
}

function rowOf({ row }: Answer, { seeds }: Work): JsonObject | undefined {
	if (!row) return undefined;
	return seeds.rows.get(rowsName(row))?.values().next().value;
}
