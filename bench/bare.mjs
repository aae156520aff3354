// The raw baseline: undici.request in a loop that is warm, bodies read, nothing else. Prints requests per second.
import { Agent, request, setGlobalDispatcher } from 'undici';

const [port = '', count = '', parallel = ''] = process.argv.slice(2);
setGlobalDispatcher(new Agent({ connections: Number(parallel) }));
const url = `http://127.0.0.1:${port}/bookings/`;
/** So many calls until the compiler has settled. */
const WARM_UP = 5000;

/** @param {number} calls */
async function loop(calls) {
	let next = 0;
	const lane = async () => {
		for (let n = next++; n < calls; n = next++) {
			const { body } = await request(url + n, { headers: { accept: 'application/json' } });
			await body.text();
		}
	};
	const start = performance.now();
	await Promise.all(Array.from({ length: Number(parallel) }, lane));
	return calls / ((performance.now() - start) / 1000);
}
await loop(WARM_UP);
process.stdout.write(`${await loop(Number(count))}\n`);
process.exit(0);
