// Starts the stand-ins and the application as processes of their own: for the demo, the browser tests and the pictures.
import { spawn } from 'node:child_process';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { createServer } from 'node:net';
import { join, relative, sep } from 'node:path';
import { root } from './setup.mjs';

export const PORT = 4680;
export const STANDINS_PORT = 4681;
const STANDINS = 12;

/** @param {number} port @returns {Promise<boolean>} */
const isFree = (port) =>
	new Promise((resolve) => {
		const server = createServer();
		server.once('error', () => resolve(false));
		server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
	});

/**
 * The first port from which on so many are free.
 * @param {number} from
 * @param {number} count
 */
async function freePorts(from, count) {
	for (let first = from; first < from + 2000; first++) {
		const free = await Promise.all(Array.from({ length: count }, (_, i) => isFree(first + i)));
		if (free.every(Boolean)) return first;
	}
	throw new Error(`no free ports from ${from} on`);
}

/** @param {string} dir @returns {string[]} */
const filesOf = (dir) =>
	readdirSync(dir).flatMap((name) =>
		statSync(join(dir, name)).isDirectory() ? filesOf(join(dir, name)) : [join(dir, name)]
	);

/**
 * The demo project's files, with the stand-ins' addresses where they really are.
 * @param {number} first
 */
export function demoFiles(first) {
	const dir = join(root, 'demo/reedmere');
	return filesOf(dir).map((file) => {
		let bytes = readFileSync(file);
		if (first !== STANDINS_PORT && file.endsWith('.yaml')) {
			const moved = (/** @type {string} */ _, /** @type {string} */ host, /** @type {string} */ port) =>
				`${host}:${first + Number(port) - STANDINS_PORT}`;
			bytes = Buffer.from(bytes.toString('utf8').replace(/(127\.0\.0\.1|localhost):(46[89]\d)/g, moved));
		}
		return { path: relative(dir, file).split(sep).join('/'), base64: bytes.toString('base64') };
	});
}

/** The secrets that the stand-ins take, as the application reads them. @returns {Record<string, string>} */
export const demoSecrets = () =>
	Object.fromEntries(
		[...readFileSync(join(root, 'demo/secrets.yaml'), 'utf8').matchAll(/^(\w+): (.+)$/gm)].map(
			([, name = '', value = '']) => [
				`HERON_SECRET_${name.replace(/[A-Z]/g, (letter) => `_${letter}`).toUpperCase()}`,
				value
			]
		)
	);

/** @param {import('node:child_process').ChildProcess} child @param {RegExp} ready @returns {Promise<string>} */
const said = (child, ready) =>
	new Promise((resolve, reject) => {
		let text = '';
		const hear = (/** @type {Buffer} */ data) => {
			text += data;
			if (ready.test(text)) resolve(text);
		};
		child.stdout?.on('data', hear);
		child.stderr?.on('data', hear);
		child.once('close', (code) => reject(new Error(`it ended with ${code} before it was ready:\n${text}`)));
	});

/**
 * @param {{ port?: number, standinsPort?: number, dataDir: string, secrets?: Record<string, string>, quiet?: boolean }} options
 */
export async function startWorkbench({
	port = PORT,
	standinsPort = STANDINS_PORT,
	dataDir,
	secrets = demoSecrets(),
	quiet = false
}) {
	const say = (/** @type {string} */ text) => quiet || console.log(text);
	const first = await freePorts(standinsPort, STANDINS);
	if (first !== standinsPort) say(`port ${standinsPort} is taken: the stand-ins use ${first} and the ones after it`);
	const standins = spawn(process.execPath, ['dist/standins.js'], {
		cwd: root,
		env: { ...process.env, HERON_STANDINS_PORT: String(first) }
	});
	/** @type {import('node:child_process').ChildProcess[]} */
	const children = [standins];
	const stop = () => Promise.all(children.map(ended));
	try {
		return await rest();
	} catch (error) {
		await stop();
		throw error;
	}

	async function rest() {
		const readyLine = /^ready {2}(.+)$/m;
		/** @type {{ name: string, title: string, address: string, definition?: string }[]} */
		const list = JSON.parse(readyLine.exec(await said(standins, /^ready {2}.+\n/m))?.[1] ?? '[]');
		const at = await freePorts(port, 1);
		if (at !== port) say(`port ${port} is taken: the application uses ${at}`);
		const server = spawn(process.execPath, ['build/index.js'], {
			cwd: root,
			env: {
				...process.env,
				HOST: '127.0.0.1',
				PORT: String(at),
				BODY_SIZE_LIMIT: '100M',
				SHUTDOWN_TIMEOUT: '3',
				KEEP_ALIVE_TIMEOUT: '75',
				HERON_DATA: dataDir,
				HERON_STANDINS: JSON.stringify(list),
				...secrets
			}
		});
		children.unshift(server);
		await said(server, /Listening on/);
		let unexpected = '';
		server.stderr.on('data', (data) => {
			process.stderr.write(data);
			if (unexpected || /^unexpected: /m.test(String(data))) unexpected += data;
		});
		const url = `http://127.0.0.1:${at}`;
		const call = async (/** @type {string} */ path, /** @type {unknown} */ body) => {
			const init =
				body === undefined
					? {}
					: { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) };
			const reply = await fetch(`${url}/api${path}`, init);
			const text = await reply.text();
			if (!reply.ok) throw new Error(`${path}: ${reply.status} ${text}`);
			return text ? JSON.parse(text) : undefined;
		};
		const { projects: known } = /** @type {{ projects: { name: string }[] }} */ (await call('/projects', undefined));
		if (!known.some((project) => project.name === 'reedmere'))
			await call('/projects', { name: 'reedmere', files: demoFiles(first) });
		for (const name of ['notices', 'pilots'])
			await call('/projects/reedmere/stand-ins', { name, action: 'start', environment: 'local' });
		return { url, standins: list, server, stop, call, firstStandin: first, unexpected: () => unexpected };
	}
}

/** @param {import('node:child_process').ChildProcess} child */
const ended = (child) =>
	new Promise((resolve) => {
		if (child.exitCode !== null || child.signalCode) return resolve(undefined);
		child.once('exit', resolve);
		child.kill('SIGTERM');
		setTimeout(() => child.kill('SIGKILL'), 5000).unref();
	});
