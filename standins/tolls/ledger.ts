/** Passages through the locks: written by the toll ledger, shown by the moorings service a moment later. */
export interface Passage {
	number: string;
	lock: string;
	craft: { name: string; kind: string; length: string; licence?: string };
	direction: string;
	passedAt: string;
	pence: number;
	recordedAt: number;
}

export const LOCKS: Readonly<Record<string, number>> = { 'Staithe Lock': 18, 'Mill Lock': 22, 'Upper Staircase': 21.5 };

const first: Omit<Passage, 'number' | 'recordedAt'>[] = [
	{
		lock: 'Staithe Lock',
		craft: { name: 'Slow Tide', kind: 'cruiser', length: '11.2', licence: 'RW-204417' },
		direction: 'up',
		passedAt: '2027-05-02T08:10:00Z',
		pence: 560
	},
	{
		lock: 'Mill Lock',
		craft: { name: 'Marsh Marigold', kind: 'barge', length: '19.5' },
		direction: 'down',
		passedAt: '2027-05-02T09:25:00Z',
		pence: 1365
	}
];

export interface Ledger {
	passages: Map<string, Passage>;
	record(passage: Omit<Passage, 'number' | 'recordedAt'>): Passage;
	reset(): void;
}

export function createLedger(): Ledger {
	const passages = new Map<string, Passage>();
	let next = 0;
	const record: Ledger['record'] = (given) => {
		const passage = { ...given, number: `LP-${next++}`, recordedAt: Date.now() };
		passages.set(passage.number, passage);
		return passage;
	};
	const reset = () => {
		passages.clear();
		next = 40_118;
		for (const one of first) record(one).recordedAt = 0;
	};
	reset();
	return { passages, record, reset };
}

const PER_METRE: Record<string, number> = { barge: 70, cruiser: 50, dinghy: 20 };
/** The toll in pence, with how it comes about. */
export function tollOf(craft: Passage['craft'], season: string, reductions: number[]) {
	const metres = Number(craft.length);
	const lines = [
		{
			text: `${craft.kind}, ${craft.length} m`,
			pence: Math.round((Object.hasOwn(PER_METRE, craft.kind) ? PER_METRE[craft.kind]! : 50) * metres)
		}
	];
	if (season === 'winter') lines.push({ text: 'winter', pence: -Math.round(lines[0]!.pence / 4) });
	for (const percent of reductions)
		lines.push({ text: `reduction of ${percent} %`, pence: -Math.round((lines[0]!.pence * percent) / 100) });
	return {
		pence: Math.max(
			0,
			lines.reduce((sum, line) => sum + line.pence, 0)
		),
		lines
	};
}
