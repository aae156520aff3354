import type { Wordings } from './wording.ts';

/** The command. */
export const command = {
	'usage.option': ['--{option} wants {wanted}, this is "{given}"', { option: 'port', wanted: 'a port', given: 'many' }],
	'usage.compare': 'two versions of a definition are wanted, files or addresses: heron compare old.yaml new.yaml',
	'usage.export': 'a project and a folder are wanted: heron export reedmere path/to/folder',
	'usage.import':
		'a project’s folder, a definition (WSDL, OpenAPI) or a recording (HAR) is wanted: heron import path/to/ledger.wsdl',
	'usage.init': 'one folder is wanted: heron init path/to/folder',
	'usage.open': 'one folder is wanted: heron open path/to/folder',
	'usage.merge': 'results are wanted: heron merge out/part-*.json (heron run --report json=FILE)',
	'usage.publish': 'the file of a result is wanted: heron publish heron-1a2b3c4d.jsonl',
	'usage.reach': 'one target is wanted: a connection’s name, or an address',
	'usage.vault': 'rekey is wanted: heron vault rekey',
	'usage.unwritable': [
		'{what} cannot be written: {detail}',
		{ what: 'the report out/junit.xml', detail: 'there is no folder out' }
	],
	'usage.tally': [
		'--least: nothing is counted as "{kind}"{nearest}',
		{ kind: 'opertion', nearest: ': did you mean "operation"?' }
	],
	'usage.noDefinition': 'the project has no definition: definitions/ holds none',
	'usage.noOperation': [
		'--only {word}: no operation of the definition has this tag, operationId or path, or steps call it already',
		{ word: 'boats' }
	],
	'usage.noCall': ['--only {word}: no call of the recording has this host or path', { word: 'boats' }],
	'usage.revision': '--revision is one of a server’s project: --server URL --name NAME',
	'usage.serverName': '--server wants the name of its project: --name NAME',
	'usage.projectOrName': '--project is a folder, --name a project of a server: one of them',
	'usage.publishBoth': '--publish and --no-publish exclude each other',
	'usage.reportFile': [
		'--report {report} wants a file: --report {report}=out.{ending}',
		{ report: 'junit', ending: 'xml' }
	],
	'usage.oneReport': 'only one report can go to standard output',
	'usage.timings': '--timings goes with --shard',
	'usage.noStandInLog': '--standins-log: no stand-in is started for this run',
	'usage.allKinds': ['--all writes every kind: leave {name} out', { name: 'suite' }],
	'usage.fileKind': [
		'there is no kind of file "{name}"{nearest}',
		{ name: 'siute', nearest: ': did you mean "suite"?' }
	],
	'usage.standInProject': [
		'"{name}" would be a stand-in of a project: there is none here, --project says where it is',
		{ name: 'gatehouse' }
	],
	'usage.standInPort': ['{detail}: choose another with --port', { detail: 'the port 4601 is taken' }],
	'usage.noStandIns': 'the project has no stand-ins: stand-ins/ holds none (--demo starts those of the demo)',
	'usage.withStandIns': '--with-standins: the project has none, stand-ins/ is empty',
	'export.outside': ['the server sent a file that does not belong in a project: {path}', { path: '../secrets.yaml' }],
	'export.changes': [
		'{count} in {folder} would change ({files}): --replace writes over',
		{ count: '2 files', folder: '../bookings', files: 'boats.yaml and berths.yaml' }
	],
	'init.project': ['{folder} holds a project already: heron check looks at it', { folder: '../bookings' }],
	'init.file': ['{path} is there already, and would be written over', { path: 'collections/bookings.yaml' }],
	'open.none': [
		'{folder} holds no heron.yaml: {command} begins a project there',
		{ folder: '../bookings', command: 'heron init' }
	],
	'merge.part': [
		'part {parts} of {count} is missing: without it nothing can be said of the whole',
		{ parts: '2, 3', count: 4 }
	],
	'merge.suite': [
		'the results are of the suite "{name}", which the project does not have: its gate is there, --project DIR says where',
		{ name: 'nightly' }
	],
	'merge.file': ['{file}: {detail}', { file: 'out/part-1.json', detail: 'it is not JSON' }],
	'publish.gap': ['results before these are missing: the next one is {next}', { next: 41 }],
	'publish.other': ['the run {run} belongs to the project {project}', { run: '1a2b3c4d', project: 'reedmere' }],
	'publish.refused': [
		'{server} does not take it: {title}{hint}',
		{ server: 'http://127.0.0.1:4680', title: 'the project is in no folder', hint: '' }
	],
	'publish.large': ['{file} is larger than 2 GB', { file: 'heron-1a2b3c4d.jsonl' }],
	'publish.torn': [
		'{file}:{line}: this is not whole: what came before it was sent',
		{ file: 'heron-1a2b3c4d.jsonl', line: 12 }
	],
	'publish.foreign': [
		'{file}:{line}: this is no result that heron run --publish left',
		{ file: 'heron-1a2b3c4d.jsonl', line: 12 }
	],
	'publish.empty': ['{file} is empty', { file: 'heron-1a2b3c4d.jsonl' }],
	'remote.plain': [
		'HERON_TOKEN would go to {host} without TLS: give the server an address with https://',
		{ host: 'heron.reedmere.example' }
	],
	'remote.none': [
		'no server answers at {server}: start one with "heron serve", or name it with --server',
		{ server: 'http://127.0.0.1:4680' }
	],
	'remote.other': ['what answers at {server} is not a Loyal Heron server', { server: 'http://127.0.0.1:4680' }],
	'remote.noRevision': 'this server is of an earlier version, which knows no --revision',
	'remote.failed': ['the server says: {detail}', { detail: '503 Service Unavailable' }],
	'serve.token': [
		'at {host} it would be reached from other machines, and whoever reaches it may do everything: give it a token in HERON_TOKEN, and its names in HERON_HOSTS',
		{ host: '0.0.0.0' }
	],
	'serve.port': ['port {port} of {host} is taken: choose another with --port', { port: 4680, host: '127.0.0.1' }],
	'serve.build': 'the application is not built: npm run build',
	'history.wrong': [
		'{file}, line {line}: {detail}: it is no history of heron run --history',
		{ file: 'history.jsonl', line: 12, detail: 'it has no summary' }
	]
} satisfies Wordings;
