type Values = Record<string, string | number>;
type Wording = string;

// One line a code: what is wrong, and what would be right. {name} is filled from the error's values.
const table = {
	// files
	'yaml.syntax': '{detail}',
	'yaml.conflict': 'both sides of a merge stand here, {ours} and {theirs}: one of them has to be chosen',
	'yaml.tooLarge': 'the file has {size}; a project file may have up to {limit}',
	'file.kind': 'no such kind of file: a project holds heron.yaml and the folders {folders}',
	'file.missing': 'there is no file {file} in the project',
	'model.unknownKey': 'unknown key "{key}"{nearest}',
	'model.required': '{key} is missing{hint}',
	'model.wrong': '{detail}',
	'model.version': 'format version {version} is not known: this program reads version 1',
	'model.duplicate': 'the id "{id}" is used twice; first in line {line}',
	'model.reference': 'there is no {kind} "{name}"{nearest}',
	'lint.json': 'the body is not JSON: line {line}, column {column}: {detail}',
	'lint.xml': 'the body is not well-formed XML: line {line}, column {column}: {detail}',
	'lint.comparedType': '{name} is {is} in {from}, and is compared with {as}',
	'lint.bodyOnGet': '{method} with a body: many servers ignore it or refuse the call',
	'lint.contentType': 'Content-Type says {type}, and the body is of kind {kind}',
	'lint.headerName': 'a header "{name}": {near} is meant, perhaps',
	'lint.slashes': 'two slashes in a row in the path',
	'lint.encoding': '{shown} in an address goes out percent-encoded',
	'lint.queryTwice': 'the query parameter {name} is given twice',
	'lint.plainSecret': '{name} looks like a secret in plain: keep it in the vault, and write {$secret.NAME}',
	'lint.unknownFunction': 'expressions know no function ${name}{nearest}',
	'lint.pathValue': 'nothing gives {name} in the path a value',
	'lint.pathUnused': 'the value {name} stands nowhere in the path',
	'lint.headerTwice': 'the header {name} is given twice',
	'lint.status': 'no answer has the status {status}: codes go from 100 to 599',
	'lint.noDefinition': 'the answer is held against a definition, and definitions/ holds none',
	'lint.noBaseline': 'there is no baseline {name} yet: approve an answer',
	'lint.emptyBody': '{method} without a body: what should change?',
	'lint.unchecked': 'nothing is checked from this step to the end of its scenario',
	'lint.unusedVariable': 'the variable {name} is used nowhere',
	'lint.unusedSecret': 'the secret {name} is used nowhere',
	'lint.unusedOutput': '"{name}" is kept and not used',
	'lint.standInCovered': 'it is never reached: {by} takes all that fits it',
	'project.invalid': 'the project has {count}',
	'project.empty': 'there is nothing to run: no scenario is chosen',
	'project.none': 'there is no project in {dir}: heron.yaml is missing',
	// values
	'value.syntax': 'in {expression}: {detail}',
	'value.unclosed': 'the expression that starts with "{start}" is not closed: a "}" is missing',
	'value.missing': '{name} is not set{hint}',
	'value.later': 'it uses a token that is fetched only when it is sent: sign in first to see it whole',
	'value.cycle': 'variables refer to each other in a circle: {circle}',
	'value.type': '{expression} gives {type}, which cannot stand inside a text',
	'value.failed': '{expression} could not be computed: {detail}',
	'value.timeout': '{expression} took longer than {limit} and was cut off',
	'value.template':
		'{text} in the address is no expression of a URI template (RFC 6570): {name}, {+name}, {?name*} are some',
	'value.xml': 'a value holds {character}, which XML cannot: a body of text sends it as it is',
	'value.dots': 'the value {value} of {name} would lead to another path: a server never sees it as it is',
	'value.path': 'the path asks for {name}, and the step gives it no value: add it as a path parameter',
	'value.header': '{where} "{name}" would hold a line break or control character, which HTTP does not allow',
	'value.address': '{address} is not an address: it should look like https://host/path',
	'value.port': '{address} has a colon behind its host and no port: what fills it in may be empty',
	'value.body': 'the body is not valid {kind} once its values are filled in: {detail}',
	// sending
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
	'vault.key':
		'the key of the vault is not the one that {count} were written with: give the old one in HERON_KEY or the key file, or write their values anew',
	'vault.keyFile': 'the key of the vault cannot be used: {detail}',
	'send.protocol': 'an address starts with http:// or https://, this one with {protocol}',
	'send.redirects': 'more than {limit} redirects; the last one led to {address}',
	'send.cancelled': 'stopped before it was finished',
	'secret.elsewhere':
		'nothing was sent: the secret {name} would go to {host}, and {environment} lets it go to {hosts} alone (secretHosts)',
	'send.failed': 'the call could not be carried out: {detail}',
	'script.failed': 'the script ended early: {detail}',
	'step.timeout': 'the step took longer than {limit}',
	'run.guarded': '{environment} is guarded, and {count} may change something there{how}',
	'run.standIn': 'in {environment} the stand-in {name} answers, and it does not run: start it first',
	'standIn.path': 'the path of {id} has no {name}{nearest}',
	'standIn.port': 'the port {port} that {name} wants is taken: give it another one, or none for any that is free',
	'standIn.restart': '{name} has another port, base or TLS now: stop it and start it again',
	'standIn.loop': 'it came from here before: {name} is passed on to itself in a circle',
	'standIn.call': '{name} makes no call "{id}" by itself{nearest}',
	'standIn.refused': '{detail}',
	'standIn.none': 'the project has no stand-in "{name}"{nearest}',
	'run.called': '{detail}',
	'run.crashed': 'it was ended before it was done: {detail}',
	'run.many': '{count} going on already: wait until one has ended, or stop one',
	'run.interrupted': 'the server was stopped while this ran',
	// datasets
	'dataset.none': 'there is no dataset "{name}" in datasets/{nearest}',
	'dataset.several': '"{name}" may be {files}: write which one is meant',
	'dataset.kind': '{file} is not a dataset: csv, tsv, json, yaml, xlsx and ods are',
	'dataset.large': '{file} is too large to be read whole (more than {limit})',
	'dataset.list': '{file} holds {type}; a list with an object for each row is wanted{hint}',
	'dataset.syntax': '{file}: {detail}',
	'dataset.column': '{file} has no column "{column}"{nearest}',
	'dataset.wide': '{file} has {count} columns; a dataset may have up to {limit}',
	'dataset.row': 'row {number} of {file} cannot be used: {detail}',
	'dataset.made': '{column} cannot be made: {detail}',
	'dataset.empty': '{file} has no row that is chosen{hint}',
	'rows.none': 'nothing that is chosen runs over rows: add rows: to a scenario, or use $row in it',
	// selectors and checks
	'selector.syntax': 'the selector {selector} cannot be read: {detail}',
	'selector.body': 'the body is not JSON: {detail}',
	'definition.wrong': '{file} is not a definition that can be read: {detail}',
	'definition.operation': 'there is no operation "{name}" in definitions/{nearest}',
	'definition.several': '{name} is in {files}: definition: says which is meant, and without it {taken} is',
	'definition.value': '{name}: {detail}',
	'definition.call': '{detail}',
	'publish.gap': 'results before these are missing: the next one is {next}',
	'publish.other': 'the run {run} belongs to the project {project}',
	'exchange.quote': 'the quote {quote} in line {line}, column {column} is not closed',
	'exchange.har': 'this is no HTTP Archive (HAR 1.2): {detail}',
	'exchange.none': 'no call can be read: {detail}',
	'definition.none': 'there is no definition for this step: {detail}',
	'xml.wrong': '{file}this is not well-formed XML: {detail}',
	'selector.xml': 'the body is not XML: {detail}',
	'baseline.wrong': 'the baseline {file} cannot be read: {detail}',
	'selector.failed': '{detail}',
	'selector.slow': '{selector} was stopped after {limit}: make its path more exact',
	'schema.wrong': 'the schema {file} cannot be used: {detail}',
	'selector.nothing': 'nothing in the reply matches {selector}',
	'pattern.slow':
		'the pattern {pattern} was stopped after {limit} at one text: look-around and back-references can take for ever',
	'pattern.syntax': 'the pattern {pattern} cannot be read: {detail}',
	'check.judge': 'the check could not be judged: {detail}',
	// command and server
	usage: '{detail}',
	'store.taken':
		'another server (process {pid}) works with the data in {dir}: stop it, or give this one another folder',
	'folder.failed': '{path} cannot be used: {detail}',
	'store.missing':
		'the database engine is not here (sqlite3, {detail}): serve and open need it, run, check, reach and merge do without. npm install sqlite3 fetches or compiles it',
	'store.failed': 'the database could not be used: {detail}',
	'store.readOnly':
		'the database cannot be written: {detail}. What you see is not lost; free the file or the disk and try again',
	'store.conflict': 'this was changed elsewhere in the meantime (revision {current}, yours was based on {base})',
	'request.wrong': '{detail}',
	'request.notFound': '{what} was not found',
	'request.forbidden': '{detail}',
	'server.failed': 'something went wrong inside: {detail}'
} satisfies Record<string, Wording>;

/** The code of a message: stable, and part of what reports say. */
export type MessageCode = keyof typeof table;
/** All codes of messages. */
export const messageCodes = Object.keys(table) as MessageCode[];

/** The wording of a code with its values filled in. */
export function messageOf(code: MessageCode, values: Values = {}): string {
	return table[code].replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ''));
}

/** The known name that is one or two slips away. */
export function nearestOf(name: string, known: readonly string[]): string | undefined {
	const limit = name.length <= 3 ? 1 : 2;
	let best: { name: string; distance: number } | undefined;
	for (const candidate of known) {
		const distance = editDistance(name.toLowerCase(), candidate.toLowerCase());
		if (distance <= limit && (!best || distance < best.distance)) best = { name: candidate, distance };
	}
	return best?.name;
}

/** `; did you mean "x"?` when a known name is one or two slips away, else the list when it is short. */
export function didYouMean(name: string, known: readonly string[]): string {
	const best = nearestOf(name, known);
	if (best !== undefined) return `: did you mean "${best}"?`;
	if (known.length > 0 && known.length <= 24) return `; known are ${[...known].sort().join(', ')}`;
	return '';
}

/** Optimal string alignment distance: inserted, lost, changed and swapped letters; 3 for further apart. */
export function editDistance(a: string, b: string): number {
	if (Math.abs(a.length - b.length) > 2) return 3;
	let before: number[] = [];
	let previous = Array.from({ length: b.length + 1 }, (_, i) => i);
	for (let i = 1; i <= a.length; i++) {
		const row = [i];
		for (let j = 1; j <= b.length; j++) {
			const cost = a[i - 1] === b[j - 1] ? 0 : 1;
			let d = Math.min(previous[j]! + 1, row[j - 1]! + 1, previous[j - 1]! + cost);
			if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) d = Math.min(d, before[j - 2]! + 1);
			row.push(d);
		}
		before = previous;
		previous = row;
	}
	return previous[b.length]!;
}

/** `1 step`, `2 steps`. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
