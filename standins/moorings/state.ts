/** Reedmere's data, in memory; a reset brings back what it started with. */
interface Mooring {
	id: string;
	name: string;
	basin: string;
	lengthMetres: number;
	state: 'free' | 'occupied' | 'closed';
	pencePerNight: number;
}
export interface Booking {
	reference: string;
	mooring: string;
	boat: string;
	from: string;
	nights: number;
	status: 'confirmed' | 'cancelled';
	createdAt: string;
	updatedAt: string;
}
export interface Permit {
	id: string;
	boat: string;
	kind: string;
	file: { name: string; type: string; size: number; sha256: string };
	createdAt: string;
	updatedAt: string;
}
export type Edition = 'local' | 'staging';

export interface State {
	clerks: Map<string, string>;
	tokens: Map<string, { user: string; expiresAt: number }>;
	moorings: Mooring[];
	bookings: Map<string, Booking>;
	permits: Map<string, Permit>;
	/** Counts of requests to the paths that misbehave. */
	flaky: number;
	limited: { since: number; count: number };
	nextBooking: number;
	nextPermit: number;
}

const BASINS = ['Upper', 'Lower', 'Mill'];

export function freshState(edition: Edition): State {
	const size = edition === 'local' ? 24 : 60;
	return {
		clerks: new Map([[edition === 'local' ? 'avery' : 'blake', 'lock-gate-9']]),
		tokens: new Map(),
		moorings: Array.from({ length: size }, (_, i) => ({
			id: `${'ABC'[i % 3]}-${String(Math.floor(i / 3) + 1).padStart(2, '0')}`,
			name: `${BASINS[i % 3]} basin, berth ${Math.floor(i / 3) + 1}`,
			basin: BASINS[i % 3]!,
			lengthMetres: 12 + ((i * 7) % 11),
			state: i % 5 === 4 ? 'occupied' : i % 11 === 10 ? 'closed' : 'free',
			pencePerNight: 900 + ((i * 125) % 800)
		})),
		bookings: new Map(),
		permits: new Map(),
		flaky: 0,
		limited: { since: 0, count: 0 },
		nextBooking: edition === 'local' ? 204_417 : 700_001,
		nextPermit: 31
	};
}
