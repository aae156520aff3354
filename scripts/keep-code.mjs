// Keeps V8's code of the command: runs it once on a small project, so that what most commands need is compiled already.
import { createServer } from 'node:http';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { codeFile, compileProgram, programFile, startProgram } from './program.mjs';

const [dist = '', hash = ''] = process.argv.slice(2);
const server = createServer((request, response) => {
	request.resume();
	response.setHeader('Content-Type', 'application/json');
	response.setHeader('Set-Cookie', 'visit=1');
	response.end('{"reference":"RW-1","nights":3,"items":[{"id":1}]}');
});
await new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(undefined)));
const { port } = /** @type {import('node:net').AddressInfo} */ (server.address());

const dir = mkdtempSync(join(tmpdir(), 'heron-code-'));
/** @type {Record<string, string>} */
const files = {
	'heron.yaml': `heron: 1\ntitle: Code\nvariables: { base: "http://127.0.0.1:${port}", nights: 3 }\n`,
	'environments/test.yaml': 'heron: 1\nvariables: { nights: 3 }\n',
	'connections/one.yaml': 'heron: 1\nbase: "{$env.base}"\nheaders: { Accept: application/json }\n',
	'datasets/boats.csv': 'name,length\nHeron,9\nTern,7\n',
	'collections/bookings.yaml': `heron: 1
connection: one
scenarios:
  - id: book
    steps:
      - id: book
        send: POST /bookings
        body: { json: { nights: "{$env.nights}", at: "{$now()}" } }
        checks: [{ status: [200, 201] }, { header: Content-Type, contains: json }, { body: $.nights, equals: "{$env.nights}" }, { body: "$.items[*].id", equals: [1] }]
        keep: { reference: $.reference }
      - { id: read, send: "GET /bookings/{$steps.book.reference}", query: { full: true }, checks: [{ status: 200 }, { time: { below: 30 s } }] }
  - id: boats
    rows: { data: boats }
    steps:
      - { id: boat, send: "GET /boats/{$row.name}", checks: [{ status: 2XX }, { that: "$response.body.nights = 3" }] }
`
};
for (const [name, text] of Object.entries(files)) {
	mkdirSync(dirname(join(dir, name)), { recursive: true });
	writeFileSync(join(dir, name), text);
}
const script = compileProgram(programFile(dist, hash));
process.argv = [
	process.execPath,
	join(dist, 'cli.js'),
	...['run', '--project', dir, '--env', 'test', '--parallel', '2'],
	...['--report', `json=${join(dir, 'out.json')}`, '--report', `junit=${join(dir, 'out.xml')}`]
];
process.on('exit', (status) => {
	rmSync(dir, { recursive: true, force: true });
	if (status === 0) writeFileSync(codeFile(dist, hash), script.createCachedData());
});
// the server keeps the process alive until the command has answered, and no longer
server.unref();
startProgram(script, pathToFileURL(join(dist, 'cli.js')).href);
