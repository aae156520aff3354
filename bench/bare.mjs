// The raw baseline: undici.request in a loop, bodies read, nothing else. Prints requests per second.
import { Agent, request, setGlobalDispatcher } from 'undici';

const [port = '', count = '', parallel = ''] = process.argv.slice(2);
setGlobalDispatcher(new Agent({ connections: Number(parallel) }));
const url = `http://127.0.0.1:${port}/bookings/`;
let next = 0;
const lane = async () => {
	for (let n = next++; n < Number(count); n = next++) {
		const { body } = await request(url + n, { headers: { accept: 'application/json' } });
		await body.text();
	}
};
const start = performance.now();
await Promise.all(Array.from({ length: Number(parallel) }, lane));
process.stdout.write(`${Number(count) / ((performance.now() - start) / 1000)}\n`);
process.exit(0);
