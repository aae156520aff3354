import { newest } from '../common/newest.ts';
import type { Json } from '#core/model/json.ts';
import type { DatasetAnswer } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';

/** The rows of one scenario on the screen: what its dataset is, and at which row it stands. */
export class RowsState {
	/** The row with which steps are looked at and sent by hand, from 1. */
	number = $state(1);
	data: DatasetAnswer | undefined = $state.raw();
	trouble = $state('');
	readonly #ask = newest();

	/** Numbers of the rows that are chosen; all that are known when none is. */
	get numbers(): number[] {
		return this.data?.numbers ?? [];
	}
	get place(): number {
		return this.numbers.indexOf(this.number);
	}
	/** Goes to the next or previous row that is chosen. */
	step(way: 1 | -1): void {
		const next = this.numbers[Math.max(0, Math.min(this.numbers.length - 1, this.place + way))];
		if (next !== undefined) this.number = next;
	}

	async load(project: string, environment: string, rows: Json): Promise<void> {
		const isNewest = this.#ask();
		const order = { rows, environment, from: Math.max(0, this.number - 1), count: 1 };
		try {
			const found = await api.post<DatasetAnswer>(`/projects/${project}/dataset`, order);
			if (!isNewest()) return;
			this.data = found;
			this.trouble = '';
			// a row that is not chosen any more gives way to the first that is
			if (found.numbers.length > 0 && !found.numbers.includes(this.number)) this.number = found.numbers[0]!;
		} catch (error) {
			if (isNewest()) this.trouble = messageOf(error);
		}
	}
}
