import { writeJson } from '#core/model/json.ts';
import type { ReachReport } from '#core/reach/index.ts';
import { ReachRow } from './tables/index.ts';

/** A reach check as it is kept: without the bytes of its exchanges. */
type StoredReach = Omit<ReachReport, 'exchanges'>;

/** The last reach check of each target in each environment. */
export interface ReachStore {
	keep(project: string, report: StoredReach): Promise<void>;
	last(project: string, target: string, environment: string): Promise<StoredReach | undefined>;
	/** In short, for lists. */
	list(
		project: string,
		environment: string
	): Promise<{ target: string; outcome: string; at: number; finding: string }[]>;
}

const parse = (row: ReachRow): StoredReach => JSON.parse(row.report) as StoredReach;

export function createReachStore(): ReachStore {
	return {
		async keep(project, report) {
			const { target, environment, outcome, startedAt } = report;
			await ReachRow.upsert({ project, target, environment, outcome, report: writeJson(report), at: startedAt });
		},
		async last(project, target, environment) {
			const row = await ReachRow.findOne({ where: { project, target, environment }, raw: true });
			return row ? parse(row) : undefined;
		},
		async list(project, environment) {
			const rows = await ReachRow.findAll({ where: { project, environment }, raw: true });
			return rows.map((row) => {
				const { stages } = parse(row);
				const telling =
					stages.find((stage) => stage.state === 'failed') ?? stages.find((stage) => stage.state === 'warning');
				return { target: row.target, outcome: row.outcome, at: row.at, finding: telling?.finding ?? '' };
			});
		}
	};
}
