/** The stages of a reach check, in order. */
export const STAGES = ['name', 'connection', 'proxy', 'tls', 'http', 'authentication', 'answer'] as const;
/** A stage on the way to a first answer. */
export type StageKey = (typeof STAGES)[number];
/** The stages in words. */
export const STAGE_TITLES: Record<StageKey, string> = {
	name: 'Name',
	connection: 'Connection',
	proxy: 'Proxy',
	tls: 'TLS',
	http: 'HTTP',
	authentication: 'Authentication',
	answer: 'First answer'
};

interface Diagnosis {
	stage: StageKey;
	/** What was found, as a headline; {names} are filled in. */
	title: string;
	/** What it means, and what fixes it. */
	meaning: string;
	/** It goes on all the same. */
	warning?: true;
}

// One entry for everything that a reach check can find wrong.
const table = {
	'settings.wrong': { stage: 'name', title: 'The connection cannot be used as it is', meaning: '{detail}.' },
	'name.notFound': {
		stage: 'name',
		title: 'The name {host} does not resolve',
		meaning: 'No address is known for it here: it is misspelt, or known only behind a VPN or in another hosts file.'
	},
	'name.timeout': {
		stage: 'name',
		title: 'Nobody says within {limit} where {host} is',
		meaning: 'The name server does not answer: the network is away, or a VPN is off that knows the way to it.'
	},
	'tcp.refused': {
		stage: 'connection',
		title: 'Nothing listens at port {port}',
		meaning: 'The machine answers and refuses: the port is wrong, or the service does not run.'
	},
	'tcp.noRoute': {
		stage: 'connection',
		title: 'There is no route to {host}',
		meaning: 'The network knows no way there: a VPN is off, or the address is of another network.'
	},
	'tcp.timeout': {
		stage: 'connection',
		title: 'No answer from {host}:{port} within {limit}',
		meaning: 'Packets get lost on the way: mostly a firewall, or an address that nobody has.'
	},
	'tcp.reset': {
		stage: 'connection',
		title: '{host}:{port} closed the connection at once',
		meaning: 'Something between or there does not want us: a firewall, a full server, a proxy that has to be used.'
	},
	'proxy.unreachable': {
		stage: 'proxy',
		title: 'The proxy {proxy} does not answer',
		meaning: '{detail}. Its address is wrong, or it is not needed here.'
	},
	'proxy.auth': {
		stage: 'proxy',
		title: 'The proxy wants to know who asks',
		meaning: '{detail}.'
	},
	'proxy.denied': {
		stage: 'proxy',
		title: 'The proxy does not accept our user and password',
		meaning:
			'{detail}. It is the proxy that says so, not the API: the user or the password in the connection’s proxy settings is wrong.'
	},
	'proxy.refused': {
		stage: 'proxy',
		title: 'The proxy does not let us through',
		meaning: '{detail}. Its rules forbid this host or port, or the host has to be reached without it.'
	},
	'proxy.target': {
		stage: 'proxy',
		title: 'The proxy does not reach {host}:{port}',
		meaning: '{detail}. The proxy works; behind it the service does not run, or its name is not known there.'
	},
	'proxy.isTls': {
		stage: 'proxy',
		title: 'The proxy speaks TLS',
		meaning: '{proxy} was asked in plain text, and wants https:// in its address.'
	},
	'proxy.notTls': {
		stage: 'proxy',
		title: 'The proxy does not speak TLS',
		meaning: 'The address of {proxy} starts with https://, and what answers there is plain.'
	},
	'proxy.failed': {
		stage: 'proxy',
		title: 'The proxy {proxy} cannot be used',
		meaning: '{detail}.'
	},
	'tls.notTls': {
		stage: 'tls',
		title: 'What answers here does not speak TLS',
		meaning: 'The port serves plain HTTP, or another protocol altogether.'
	},
	'tls.version': { stage: 'tls', title: 'No common TLS version', meaning: '{detail}.' },
	'tls.cipher': {
		stage: 'tls',
		title: 'No common cipher suite',
		meaning:
			'The server takes none of the suites we offer at TLS {range}. Old servers take only suites that are switched off here at this version.'
	},
	'tls.expired': {
		stage: 'tls',
		title: 'The certificate has expired',
		meaning: 'It ended on {date}, {days} days ago. Its owner has to renew it.'
	},
	'tls.notYet': {
		stage: 'tls',
		title: 'The certificate is not valid yet',
		meaning: 'It begins on {date}. Or the clock of this machine is wrong: it says {now}.'
	},
	'tls.wrongName': {
		stage: 'tls',
		title: 'The certificate is for another name',
		meaning:
			'It is for {names}, and {host} was asked for. The address is wrong, or the certificate is of the wrong host.'
	},
	'tls.unknownAuthority': {
		stage: 'tls',
		title: 'The certificate’s authority is not trusted here',
		meaning:
			'{issuer} signed it; it is neither among this machine’s authorities nor in this connection. If it is an authority of your own, add its PEM file to the trusted ones.'
	},
	'tls.selfSigned': {
		stage: 'tls',
		title: 'The certificate is signed by itself',
		meaning: 'No authority vouches for it. It can be trusted here, if its owner confirms the fingerprint.'
	},
	'tls.missingIntermediate': {
		stage: 'tls',
		title: 'The server does not send the whole chain',
		meaning:
			'It sent only its own certificate, signed by {issuer}, which is not among the trusted ones. If that one is an intermediate, the server should send it along; if it is an authority of your own, add its PEM file to the trusted ones.'
	},
	'tls.clientMissing': {
		stage: 'tls',
		title: 'The server wants a client certificate',
		meaning: 'None is set: neither in the connection nor by a credential.'
	},
	'tls.clientRefused': {
		stage: 'tls',
		title: 'The server refuses our client certificate',
		meaning: '{detail}. It has expired, is of another authority, or is not registered there.'
	},
	'tls.identity': { stage: 'tls', title: 'Certificate settings cannot be used', meaning: '{detail}.' },
	'tls.timeout': {
		stage: 'tls',
		title: 'The TLS handshake takes longer than {limit}',
		meaning:
			'The connection is there, and the server does not answer the handshake: it may not speak TLS, or be overloaded.'
	},
	'tls.reset': {
		stage: 'tls',
		title: 'The server closes the connection in the handshake',
		meaning: 'Without a reason given. Often it does not know the name, or does not like the TLS version.'
	},
	'tls.failed': { stage: 'tls', title: 'The TLS handshake fails', meaning: '{detail}.' },
	'tls.spareEnded': {
		stage: 'tls',
		title: 'A certificate that is sent along has ended',
		meaning:
			'{name} ended on {date}. It is not needed here, and others may stumble over it: its owner should take it out.',
		warning: true
	},
	'tls.notVerified': {
		stage: 'tls',
		title: 'The certificate is not looked at',
		meaning: 'Verification is off in this connection: anybody between could read along. It would say: {detail}.',
		warning: true
	},
	'tls.endsSoon': {
		stage: 'tls',
		title: 'The certificate ends in {days} days',
		meaning: 'Its owner has to renew it before {date}.',
		warning: true
	},
	'http.isTls': {
		stage: 'http',
		title: 'This port speaks TLS',
		meaning: 'The address starts with http://, and what answers wants https://.'
	},
	'http.notHttp': { stage: 'http', title: 'What answers is not HTTP', meaning: 'It starts with: {start}' },
	'http.timeout': {
		stage: 'http',
		title: 'No answer within {limit}',
		meaning: 'The request is out, and nothing comes back ({phase}).'
	},
	'http.reset': {
		stage: 'http',
		title: 'The server closed the connection without an answer',
		meaning: 'The request was not understood, or something between cut it off.'
	},
	'http.version': { stage: 'http', title: 'HTTP/2 does not work here', meaning: '{detail}.' },
	'http.only2': {
		stage: 'http',
		title: 'The server speaks HTTP/2 only',
		meaning: 'HTTP/1.1 was offered, and it takes no other version than 2.'
	},
	'http.failed': { stage: 'http', title: 'The call could not be carried out', meaning: '{detail}.' },
	'http.redirect': {
		stage: 'http',
		title: 'The address redirects to {address}',
		meaning: 'Status {status}. It is quicker and safer to call the final address.',
		warning: true
	},
	'http.redirectLoop': {
		stage: 'http',
		title: 'Redirects go in a circle',
		meaning: 'After {count} of them it is back at {address}: often cookies or a slash at the end are missing.'
	},
	'auth.unauthorized': {
		stage: 'authentication',
		title: 'The server wants to know who we are (401)',
		meaning: 'It asks for {schemes}, and the connection has no credential.'
	},
	'auth.scheme': {
		stage: 'authentication',
		title: 'The server asks for another kind of credential',
		meaning: 'It asks for {schemes}; {name} is {kind}.'
	},
	'auth.refused': {
		stage: 'authentication',
		title: 'The credential is refused',
		meaning: '{name} was sent, and the server does not accept it{detail}.'
	},
	'auth.forbidden': {
		stage: 'authentication',
		title: 'We are known, but may not do this (403)',
		meaning: 'The credential lacks a right, a scope or a role; or the server does not tell 401 and 403 apart{detail}.'
	},
	'auth.failed': { stage: 'authentication', title: 'The credential cannot be used', meaning: '{detail}.' },
	'auth.missingHeader': {
		stage: 'authentication',
		title: 'The header {header} is missing',
		meaning: 'The server says so: “{said}”.'
	},
	'auth.headerSlip': {
		stage: 'authentication',
		title: 'A header name is one slip away from the right one',
		meaning: 'We send {sent}; {wanted} is meant.'
	},
	'auth.skew': {
		stage: 'authentication',
		title: 'Clocks differ by {seconds} s',
		meaning: 'The server’s Date says {theirs}, here it is {ours}. Signatures and tokens with times will be refused.',
		warning: true
	},
	'answer.notFound': {
		stage: 'answer',
		title: 'Nothing is at the base address itself (404)',
		meaning:
			'The server is reached. Many APIs have nothing there; if calls fail too, the path in the base address is wrong.',
		warning: true
	},
	'answer.method': {
		stage: 'answer',
		title: 'GET is not allowed there (405)',
		meaning: 'The server is reached. Allowed are: {methods}.',
		warning: true
	},
	'answer.tooMany': {
		stage: 'answer',
		title: 'Too many requests (429)',
		meaning: 'The server is reached and asks for a pause{detail}.',
		warning: true
	},
	'answer.html': {
		stage: 'answer',
		title: 'An HTML page came where an API was expected',
		meaning: 'A login page, a proxy’s notice, or the address of a site instead of its API: “{page}”.'
	},
	'answer.refused': {
		stage: 'answer',
		title: 'The server refuses the request ({status})',
		meaning: 'It is reached and says what it does not like{detail}.'
	},
	'answer.trouble': {
		stage: 'answer',
		title: 'The server is in trouble ({status})',
		meaning: 'It is reached, but could not answer{detail}. A gateway may not find the service behind it.'
	}
} satisfies Record<string, Diagnosis>;

/** The code of a diagnosis: stable, and part of what `heron reach --json` says. */
export type DiagnosisCode = keyof typeof table;
/** All codes of diagnoses. */
export const diagnosisCodes = Object.keys(table) as DiagnosisCode[];
/** What a diagnosis says, and what fixes it. */
export const diagnosisOf = (code: DiagnosisCode): Diagnosis => table[code];

/** A text of the table with its values filled in. */
export const filled = (text: string, values: Record<string, string | number>): string =>
	text
		.replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ''))
		.replace(/\.\.$/, '.')
		.trim();
