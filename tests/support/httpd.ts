import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { authorityPem, makeIdentity } from '../../standins/gatehouse/certificates.ts';

const httpdPath = process.env.HTTPD_PATH ?? '/usr/sbin/apache2';
export const hasHttpd = httpdPath !== '' && existsSync(httpdPath);
const MODULES = '/usr/lib/apache2/modules';

export const KEEPER = { user: 'kéeper', password: 'sluïce:9' };

async function freePorts(count: number): Promise<number[]> {
	const servers = await Promise.all(
		Array.from({ length: count }, async () => {
			const server = net.createServer();
			await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
			return server;
		})
	);
	const ports = servers.map((server) => (server.address() as net.AddressInfo).port);
	await Promise.all(servers.map((server) => new Promise((resolve) => server.close(resolve))));
	return ports;
}

export interface Httpd {
	plain: string;
	secure: string;
	mutual: string;
	old: string;
	proxy: string;
	stop(): Promise<void>;
}

/** Apache httpd on loopback, with passwords, TLS in several ways, and a proxy. */
export async function startHttpd(): Promise<Httpd> {
	const dir = mkdtempSync(join(tmpdir(), 'heron-httpd-'));
	// its children are nobody
	chmodSync(dir, 0o755);
	const [plain, secure, mutual, old, proxy] = (await freePorts(5)) as [number, number, number, number, number];
	const { cert, key } = await makeIdentity({ name: 'httpd' });
	const put = (name: string, text: string) => writeFileSync(join(dir, name), text);
	for (const folder of ['', 'basic', 'digest']) {
		mkdirSync(join(dir, 'www', folder), { recursive: true });
		put(join('www', folder, 'index.json'), JSON.stringify({ folder: folder || 'root' }));
	}
	put('mime.types', 'application/json json\n');
	put('cert.pem', cert);
	put('key.pem', key);
	put('authority.pem', authorityPem);
	const hash = (algorithm: string, text: string) => createHash(algorithm).update(text);
	put('basic', `${KEEPER.user}:{SHA}${hash('sha1', KEEPER.password).digest('base64')}\n`);
	put('digest', `keeper:canal:${hash('md5', `keeper:canal:${KEEPER.password}`).digest('hex')}\n`);
	const modules = [
		...[
			'mpm_event',
			'authn_core',
			'authn_file',
			'authz_core',
			'authz_user',
			'auth_basic',
			'auth_digest',
			'dir',
			'mime'
		],
		...['ssl', 'socache_shmcb', 'http2', 'proxy', 'proxy_http', 'proxy_connect', 'headers']
	];
	const tls = `SSLEngine on\nSSLCertificateFile ${dir}/cert.pem\nSSLCertificateKeyFile ${dir}/key.pem`;
	const host = (port: number, text: string) =>
		`Listen 127.0.0.1:${port}\n<VirtualHost 127.0.0.1:${port}>\n${text}\n</VirtualHost>`;
	put(
		'httpd.conf',
		[
			`ServerRoot ${dir}`,
			`PidFile ${dir}/pid`,
			`ErrorLog ${dir}/error.log`,
			`DefaultRuntimeDir ${dir}`,
			'ServerName 127.0.0.1',
			process.getuid?.() === 0 ? 'User nobody\nGroup nogroup' : '',
			...modules.map((name) => `LoadModule ${name}_module ${MODULES}/mod_${name}.so`),
			`TypesConfig ${dir}/mime.types`,
			'DirectoryIndex index.json',
			`DocumentRoot ${dir}/www`,
			`<Directory ${dir}/www>\nRequire all granted\n</Directory>`,
			host(
				plain,
				`<Location /basic>\nAuthType Basic\nAuthName canal\nAuthUserFile ${dir}/basic\nRequire valid-user\n</Location>\n` +
					`<Location /digest>\nAuthType Digest\nAuthName canal\nAuthDigestDomain /digest\nAuthDigestQop auth\nAuthUserFile ${dir}/digest\nRequire valid-user\n</Location>`
			),
			host(secure, `${tls}\nSSLProtocol -all +TLSv1.2 +TLSv1.3\nProtocols h2 http/1.1`),
			host(mutual, `${tls}\nSSLCACertificateFile ${dir}/authority.pem\nSSLVerifyClient require`),
			host(old, `${tls}\nSSLProtocol TLSv1.1\nSSLCipherSuite DEFAULT:@SECLEVEL=0`),
			host(
				proxy,
				`ProxyRequests On\nAllowCONNECT ${secure} ${mutual}\n<Proxy *>\nAuthType Basic\nAuthName canal\nAuthUserFile ${dir}/basic\nRequire valid-user\n</Proxy>`
			)
		].join('\n')
	);
	const child = spawn(httpdPath, ['-d', dir, '-f', join(dir, 'httpd.conf'), '-DFOREGROUND'], {
		stdio: ['ignore', 'pipe', 'pipe']
	});
	let said = '';
	for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => (said += data));
	const stop = () =>
		new Promise<void>((resolve) => {
			const end = () => {
				rmSync(dir, { recursive: true, force: true });
				resolve();
			};
			if (child.exitCode !== null) return end();
			child.once('exit', end);
			child.kill('SIGTERM');
		});
	for (let tried = 0; ; tried++) {
		const up = await new Promise<boolean>((resolve) => {
			const socket = net.connect({ host: '127.0.0.1', port: proxy });
			socket.once('connect', () => (socket.destroy(), resolve(true))).once('error', () => resolve(false));
		});
		if (up) break;
		if (child.exitCode !== null || tried > 100) {
			const log = existsSync(join(dir, 'error.log')) ? readFileSync(join(dir, 'error.log'), 'utf8') : '';
			await stop();
			throw new Error(`httpd does not start: ${said}${log}`);
		}
		await new Promise((resolve) => setTimeout(resolve, 50));
	}
	return {
		plain: `http://127.0.0.1:${plain}`,
		secure: `https://127.0.0.1:${secure}`,
		mutual: `https://127.0.0.1:${mutual}`,
		old: `https://127.0.0.1:${old}`,
		proxy: `http://127.0.0.1:${proxy}`,
		stop
	};
}
