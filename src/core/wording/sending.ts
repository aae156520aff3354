import type { Wordings } from './wording.ts';

/** Sending, TLS, signing in, secrets. */
export const sending = {
	'send.refused': 'nothing listens at {host}:{port} (connection refused): check the port, and that the service runs',
	'send.name': 'the name {host} does not resolve: check the spelling, the VPN, or the hosts file',
	'send.unreachable': 'there is no route to {host}:{port}: check the network, VPN or proxy',
	'send.timeout': '{phase} took longer than {limit}',
	'send.reset': '{host}:{port} closed the connection {phase}',
	'send.notHttp': 'the reply is not HTTP; it starts with: {start}',
	'send.head': 'the head of the reply cannot be read: {detail}',
	'send.headersTooLarge': 'the header of the reply is larger than {limit}',
	'send.tls': 'TLS with {host}:{port} failed: {detail}',
	'send.proxy': 'the proxy {proxy} did not let us through: {detail}',
	'send.proxyAuth': 'the proxy {proxy} {detail}',
	'send.http2': 'HTTP/2 with {host}:{port} failed: {detail}',
	'send.protocol': 'an address starts with http:// or https://, this one with {protocol}',
	'send.redirects': 'more than {limit} redirects; the last one led to {address}',
	'send.cancelled': 'stopped before it was finished',
	'send.failed': 'the call could not be carried out: {detail}',
	'connection.proxy':
		'"{address}" is not the address of a proxy: it should look like http://host:port, https:// or socks5://',
	'tls.pem': '{file} is not PEM: it should hold -----BEGIN CERTIFICATE-----',
	'tls.identity': 'the client certificate cannot be used: {detail}',
	'tls.trust': 'the certificate of {host} is not trusted: {detail}',
	'tls.version': 'no common TLS version with {host}:{port}: {detail}',
	'tls.client': '{host} wants a client certificate: {detail}',
	'auth.wrong': 'credential {name}: {detail}',
	'auth.key': 'the private key of the credential cannot be used: {detail}',
	'auth.callback': 'the answer of the consent page cannot be used: {detail}',
	'auth.scheme': 'credential {name} answers {wanted}, but the server asks for {asked}',
	'auth.recipe': 'credential {name}: line {line}: {detail}',
	'auth.vector': 'the test vector cannot be used: {detail}',
	'auth.leg': 'credential {name}, {leg}: {detail}',
	'auth.refused': 'credential {name}, {leg}: the server refused it: {error}{detail} (status {status})',
	'auth.issuer': 'credential {name}: the metadata is of another issuer: {wanted} was asked for, it says {said}',
	'auth.consent':
		'credential {name} has no token for {environment} and needs somebody to consent: sign in on its page, or give a refresh token as a secret in refreshToken',
	'flow.noDevice': 'there is no device code yet',
	'flow.leg': 'there is no leg {leg}',
	'flow.later': '{title} comes later',
	'vault.key':
		'the key of the vault is not the one that {count} were written with: give the old one in HERON_KEY or the key file, or write their values anew',
	'vault.keyFile': 'the key of the vault cannot be used: {detail}',
	'vault.kept':
		'the vault holds {names} for "{project}": --vault keep lets them serve the new files, --vault clear takes them out',
	'vault.newKey': 'the vault is locked with HERON_KEY: give the key that follows it in HERON_NEW_KEY',
	'secret.elsewhere':
		'nothing was sent: the secret {name} would go to {host}, and {environment} lets it go to {hosts} alone (secretHosts)',
	'secrets.unreadable': 'the secrets file {file} cannot be read: {detail}',
	'secrets.yaml': '{file}:{line}: the secrets file is not YAML',
	'secrets.shape': 'the secrets file {file} holds no names with values',
	'secrets.text': 'the secrets file {file}: {name} is no text',
	'script.failed': 'the script ended early: {detail}',
	'script.large': 'a script may have {limit} characters'
} satisfies Wordings;
