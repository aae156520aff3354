// The loopback server of the benchmarks, in a process of its own: one small JSON answer, kept connections.
import http from 'node:http';

const body = Buffer.from(JSON.stringify({ reference: 'RW-204417', status: 'confirmed', nights: 3, items: [1, 2, 3] }));
const server = http.createServer((request, response) => {
	request.resume();
	response.writeHead(200, { 'content-type': 'application/json', 'content-length': body.length });
	response.end(body);
});
server.keepAliveTimeout = 60_000;
server.listen(0, '127.0.0.1', () =>
	process.stdout.write(`${/** @type {import('node:net').AddressInfo} */ (server.address()).port}\n`)
);
process.on('SIGTERM', () => server.close(() => process.exit(0)));
