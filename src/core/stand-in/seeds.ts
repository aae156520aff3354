import { writeJson, type Json, type JsonObject } from '../model/json.ts';
import { parseRows } from '../model/rows.ts';
import type { Answer, StandIn } from '../documents/stand-in.ts';
import type { StandInPorts } from './ports.ts';

/** What is looked up by columns of a dataset. */
type Rows = Map<string, JsonObject>;

/** What a stand-in reads before it begins. */
export interface Seeds {
	stores: Map<string, JsonObject[]>;
	/** By dataset and columns. */
	rows: Map<string, Rows>;
}
/** By which the rows of a dataset are known, as an answer looks them up. */
export const rowsName = ({ from, by }: NonNullable<Answer['row']>): string => writeJson([from, ...Object.keys(by)]);

/** The values by which a row is looked up, as text. */
export const rowKey = (values: Json[]): string =>
	writeJson(values.map((one) => (typeof one === 'string' ? one : writeJson(one))));

/** @throws HeronError dataset.* */
export async function readSeeds(spec: StandIn, ports: StandInPorts, seeds: Seeds): Promise<void> {
	const rowsOf = async (data: string): Promise<JsonObject[]> => {
		const dataset = await ports.dataset(parseRows(data)!);
		const out: JsonObject[] = [];
		for await (const { values } of dataset.rows()) out.push(values);
		return out;
	};
	for (const { name, from } of spec.stores.values())
		if (!seeds.stores.has(name))
			seeds.stores.set(name, typeof from === 'string' ? (from ? await rowsOf(from) : []) : from);
	for (const { row } of spec.answers) {
		if (!row || seeds.rows.has(rowsName(row))) continue;
		const table: Rows = new Map();
		for (const values of await rowsOf(row.from)) {
			const key = rowKey(Object.keys(row.by).map((column) => values[column] ?? null));
			// the first one is meant
			if (!table.has(key)) table.set(key, values);
		}
		seeds.rows.set(rowsName(row), table);
	}
}
