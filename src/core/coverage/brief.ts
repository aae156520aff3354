import { countOf, type Coverage, type Tally } from '../tallies/index.ts';

/** An operation with who calls it, and how much of it is tested. */
export interface OperationBrief {
	name: string;
	title: string;
	deprecated: boolean;
	/** Steps that call it, so many at most. */
	steps: string[];
	/** How many there are. */
	count: number;
	tally: Tally;
}
/** What a page lists of a definition before it is opened. */
export interface DefinitionBrief {
	file: string;
	title: string;
	/** Why it cannot be looked at; empty where it can. */
	trouble: string;
	operations: OperationBrief[];
}

/** Coverage without its points: of a large definition these are hundreds of thousands. */
export const briefly = ({ definitions }: Pick<Coverage, 'definitions'>): DefinitionBrief[] =>
	definitions.map(({ operations, ...definition }) => ({
		...definition,
		operations: operations.map(({ points, ...operation }) => ({
			...operation,
			steps: points[0]?.steps ?? [],
			count: points[0]?.count ?? 0,
			tally: countOf(points)
		}))
	}));
