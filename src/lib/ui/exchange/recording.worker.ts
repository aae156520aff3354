import { textOf } from '#core/errors.ts';
import {
	planRecording,
	readHar,
	rowsOfRecording,
	type MadeRecording,
	type Recorded,
	type RecordedRow,
	type RecordingMaking
} from '#core/exchange/index.ts';

/** What can be asked of the reader of recordings; each with what it answers. */
export interface RecordingOrders {
	open: { order: { file: Blob }; answer: { rows: RecordedRow[]; notes: string[] } };
	plan: { order: { chosen: number[]; making: RecordingMaking }; answer: MadeRecording };
}

// a text of more than 512 MB is none in any browser, and what is read takes several times as much
const LARGEST = 400_000_000;
let list: Recorded[] = [];

self.onmessage = async ({ data }: MessageEvent<{ id: number; name: keyof RecordingOrders; order: unknown }>) => {
	const { id, name, order } = data;
	try {
		if (name === 'open') {
			const { file } = order as RecordingOrders['open']['order'];
			if (file.size > LARGEST)
				throw new Error(
					`the recording has ${Math.round(file.size / 1e6)} MB, and ${LARGEST / 1e6} MB can be read: record less at a time`
				);
			const { calls, notes } = readHar(await file.text());
			list = calls;
			self.postMessage({ id, answer: { rows: rowsOfRecording(list), notes } });
		} else {
			const { chosen, making } = order as RecordingOrders['plan']['order'];
			self.postMessage({ id, answer: planRecording(list, chosen, making) });
		}
	} catch (error) {
		self.postMessage({ id, trouble: textOf(error) });
	}
};
