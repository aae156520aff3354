import type { Wordings } from './wording.ts';

/** Sending, TLS, signing in, secrets. */
export const sending = {
	'send.refused': [
		'nothing listens at {host}:{port} (connection refused): check the port, and that the service runs',
		{ host: 'api.reedmere.example', port: 4601 }
	],
	'send.name': [
		'the name {host} does not resolve: check the spelling, the VPN, or the hosts file',
		{ host: 'api.reedmere.example' }
	],
	'send.unreachable': [
		'there is no route to {host}:{port}: check the network, VPN or proxy',
		{ host: 'api.reedmere.example', port: 4601 }
	],
	'send.timeout': ['{phase} took longer than {limit}', { phase: 'connecting', limit: '10 s' }],
	'send.reset': [
		'{host}:{port} closed the connection {phase}',
		{ host: 'api.reedmere.example', port: 4601, phase: 'before it answered' }
	],
	'send.notHttp': ['the reply is not HTTP; it starts with: {start}', { start: 'SSH-2.0' }],
	'send.head': ['the head of the reply cannot be read: {detail}', { detail: 'the header field has no colon' }],
	'send.headersTooLarge': ['the header of the reply is larger than {limit}', { limit: '256 kB' }],
	'send.tls': [
		'TLS with {host}:{port} failed: {detail}',
		{ host: 'api.reedmere.example', port: 4601, detail: 'the server does not speak TLS' }
	],
	'send.proxy': [
		'the proxy {proxy} did not let us through: {detail}',
		{ proxy: 'proxy.reedmere.example:3128', detail: 'it answers 403' }
	],
	'send.proxyAuth': [
		'the proxy {proxy} {detail}',
		{ proxy: 'proxy.reedmere.example:3128', detail: 'wants a user and a password' }
	],
	'send.http2': [
		'HTTP/2 with {host}:{port} failed: {detail}',
		{ host: 'api.reedmere.example', port: 4601, detail: 'the server speaks HTTP/1.1 only' }
	],
	'send.protocol': ['an address starts with http:// or https://, this one with {protocol}', { protocol: 'ftp:' }],
	'send.redirects': [
		'more than {limit} redirects; the last one led to {address}',
		{ limit: 10, address: 'https://api.reedmere.example/v1' }
	],
	'send.cancelled': 'stopped before it was finished',
	'send.failed': ['the call could not be carried out: {detail}', { detail: 'the connection broke' }],
	'connection.proxy': [
		'"{address}" is not the address of a proxy: it should look like http://host:port, https:// or socks5://',
		{ address: 'proxy' }
	],
	'tls.pem': ['{file} is not PEM: it should hold -----BEGIN CERTIFICATE-----', { file: 'files/ca.pem' }],
	'tls.identity': [
		'the client certificate cannot be used: {detail}',
		{ detail: 'the key does not belong to the certificate' }
	],
	'tls.trust': [
		'the certificate of {host} is not trusted: {detail}',
		{ host: 'api.reedmere.example', detail: 'it is signed by itself' }
	],
	'tls.version': [
		'no common TLS version with {host}:{port}: {detail}',
		{ host: 'api.reedmere.example', port: 4601, detail: 'it speaks TLS 1.0' }
	],
	'tls.client': [
		'{host} wants a client certificate: {detail}',
		{ host: 'api.reedmere.example', detail: 'the connection gives none' }
	],
	'auth.wrong': ['credential {name}: {detail}', { name: 'clerk', detail: 'the token is empty' }],
	'auth.key': ['the private key of the credential cannot be used: {detail}', { detail: 'it is no PEM' }],
	'auth.callback': ['the answer of the consent page cannot be used: {detail}', { detail: 'its state is another one' }],
	'auth.scheme': [
		'credential {name} answers {wanted}, but the server asks for {asked}',
		{ name: 'clerk', wanted: 'Basic', asked: 'Digest' }
	],
	'auth.recipe': [
		'credential {name}: line {line}: {detail}',
		{ name: 'gate', line: 2, detail: 'there is no function hmc' }
	],
	'auth.vector': ['the test vector cannot be used: {detail}', { detail: 'it has no result' }],
	'auth.leg': [
		'credential {name}, {leg}: {detail}',
		{ name: 'clerk', leg: 'token', detail: 'the reply holds no access_token' }
	],
	'auth.refused': [
		'credential {name}, {leg}: the server refused it: {error}{detail} (status {status})',
		{ name: 'clerk', leg: 'token', error: 'invalid_grant', detail: ': the code was used before', status: 400 }
	],
	'auth.issuer': [
		'credential {name}: the metadata is of another issuer: {wanted} was asked for, it says {said}',
		{ name: 'clerk', wanted: 'https://id.reedmere.example', said: 'https://other.example' }
	],
	'auth.consent': [
		'credential {name} has no token for {environment} and needs somebody to consent: sign in on its page, or give a refresh token as a secret in refreshToken',
		{ name: 'clerk', environment: 'production' }
	],
	'flow.noDevice': 'there is no device code yet',
	'flow.leg': ['there is no leg {leg}', { leg: 'x' }],
	'flow.later': ['{title} comes later', { title: 'The token' }],
	'vault.key': [
		'the key of the vault is not the one that {count} were written with: give the old one in HERON_KEY or the key file, or write their values anew',
		{ count: '2 secrets' }
	],
	'vault.keyFile': ['the key of the vault cannot be used: {detail}', { detail: 'it is empty' }],
	'vault.kept': [
		'the vault holds {names} for "{project}": --vault keep lets them serve the new files, --vault clear takes them out',
		{ names: 'gateKey', project: 'reedmere' }
	],
	'vault.newKey': 'the vault is locked with HERON_KEY: give the key that follows it in HERON_NEW_KEY',
	'secret.elsewhere': [
		'nothing was sent: the secret {name} would go to {host}, and {environment} lets it go to {hosts} alone (secretHosts)',
		{ name: 'gateKey', host: 'other.example', environment: 'production', hosts: 'api.reedmere.example' }
	],
	'secrets.unreadable': [
		'the secrets file {file} cannot be read: {detail}',
		{ file: 'secrets.yaml', detail: 'it may not be read' }
	],
	'secrets.yaml': ['{file}:{line}: the secrets file is not YAML', { file: 'secrets.yaml', line: 12 }],
	'secrets.shape': ['the secrets file {file} holds no names with values', { file: 'secrets.yaml' }],
	'secrets.text': ['the secrets file {file}: {name} is no text', { file: 'secrets.yaml', name: 'gateKey' }],
	'script.failed': ['the script ended early: {detail}', { detail: 'boats is not defined (line 3)' }],
	'script.large': ['a script may have {limit} characters', { limit: 100000 }]
} satisfies Wordings;
