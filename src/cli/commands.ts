import type { Command } from './command.ts';

const project = { value: 'DIR', doc: 'the project’s folder (default: here)' };
/** A server's project in place of a folder. */
const ofServer = {
	server: { value: 'URL', doc: 'with --name: take the project from this server (default: http://127.0.0.1:4680)' },
	name: { value: 'NAME', doc: 'a project of a server in place of a folder' },
	revision: {
		value: 'R',
		doc: 'with --name: as it was at a revision, by number or name (default: what the suite says, or the newest)',
		see: '[revisions](projects.md#history)'
	}
};
const report = {
	value: 'KIND=FILE',
	many: true,
	doc: 'junit, json, html, markdown, tap, har, openapi, sarif, rows or aside to a file, - for standard output; repeatable',
	see: '[what each is for](pipelines.md)'
};
const annotate = {
	value: 'FORM',
	doc: 'mark what did not pass at file and line in the build’s log, as github, azure or plain (file:line:column: message) read it'
};
const server = { value: 'URL', doc: 'a running server (default: http://127.0.0.1:4680)' };

export const commands: readonly Command[] = [
	{
		name: 'init',
		takes: '[DIR]',
		doc: 'begin a project: its first files, with comments that say what comes next',
		options: {
			from: {
				value: 'CALL',
				doc: 'an address or a command of curl that becomes the first step, or a definition: WSDL or OpenAPI'
			},
			title: { value: 'TEXT', doc: 'the name that people read (default: the folder’s, or the address’s host)' }
		},
		load: async () => (await import('./init.ts')).init
	},
	{
		name: 'open',
		takes: '[DIR]',
		doc: 'the application on a project’s folder (default: here): the page and the files are one',
		options: {
			port: { value: 'N', doc: 'the port (default: 4680)' },
			data: { value: 'DIR', doc: 'where results and secrets are kept (default: with the user’s data)' },
			'no-browser': { doc: 'print the address, and open no browser' }
		},
		load: async () => (await import('./open.ts')).openHere
	},
	{
		name: 'run',
		takes: '[NAME…]',
		doc: 'suites, collections or collection/scenario; none: the whole project',
		options: {
			project,
			...ofServer,
			env: { value: 'NAME', doc: 'the environment' },
			set: { value: 'NAME=VALUE', many: true, doc: 'a variable, over the environment’s; repeatable' },
			secrets: { value: 'FILE', doc: 'secrets as names and values in YAML' },
			rehearse: { doc: 'show each request as it would be sent; nothing is sent' },
			json: { doc: 'with --rehearse: a line of JSON for each step' },
			data: { value: 'FILE', doc: 'rows from this dataset in place of those that scenarios name' },
			rows: { value: 'RANGES', doc: 'only these rows, such as 1-10,15' },
			aside: { value: 'FILE', doc: 'rows that did not pass, with the reason, as a dataset (CSV)' },
			'keep-files': { value: 'DIR', doc: 'where files go that steps keep' },
			'allow-guarded': { doc: 'let calls that may change something go to an environment that is guarded' },
			tag: { value: 'EXPR', doc: 'only scenarios with this tag; a,b for either, !a for none with it' },
			parallel: { value: 'N', doc: 'how many scenarios, or rows of one, run at the same time' },
			'stop-after': { value: 'N', doc: 'stop after so many steps that did not pass' },
			retries: {
				value: 'N',
				doc: 'run a scenario that did not pass again, so often at most (default: the suite’s own, or 0)',
				see: '[gates](gates.md#attempts)'
			},
			history: {
				value: 'FILE',
				doc: 'what a gate remembers of earlier runs: read, and this run added; builds keep it between them',
				see: '[gates](gates.md#what-it-remembers)'
			},
			timeout: { value: 'DURATION', doc: 'stop after so long, such as 10 min; clean-up steps still run' },
			report,
			annotate,
			shard: {
				value: 'I/N',
				doc: 'only this part of so many, such as 2/3; heron merge makes one result of them',
				see: '[on several machines](pipelines.md#on-several-machines)'
			},
			timings: {
				value: 'FILE',
				doc: 'with --shard: the JSON result of an earlier run, so that parts take the same time; one that is not there yet says nothing'
			},
			'with-standins': {
				doc: 'start the stand-ins that the environment names (or all, where it names none), and stop them at the end; those that a scenario needs are started without it',
				see: '[in a pipeline](stand-ins.md#in-a-pipeline)'
			},
			'standins-log': {
				value: 'FILE',
				doc: 'every call that they were asked, a line of JSON each'
			},
			publish: {
				value: 'URL',
				doc: 'send the result to this server while it runs (default: the suite’s own, or none)',
				see: '[back to the team](pipelines.md#back-to-the-team)'
			},
			'no-publish': { doc: 'send it to none, whatever the suite says' },
			'publish-wait': {
				value: 'DURATION',
				doc: 'with --publish: how long a server may be away at the end (default: 60 s)'
			},
			as: { value: 'NAME', doc: 'with --publish: the project there (default: the folder’s name)' },
			job: { value: 'NAME', doc: 'the pipeline’s job, kept with the result (default: what the build system says)' },
			build: { value: 'NUMBER', doc: 'the build (default: what the build system says)' },
			link: { value: 'URL', doc: 'the page of the build (default: what the build system says)' },
			commit: {
				value: 'HASH',
				doc: 'the commit (default: of the build system, or the checkout, "with changes" where the project’s files differ from it)'
			},
			branch: { value: 'NAME', doc: 'the branch (default: of the build system, or the checkout)' },
			seed: { value: 'N', doc: 'the seed of made-up data' },
			quiet: { doc: 'only what needs a look, and the summary' },
			verbose: { doc: 'every step' },
			'no-color': { doc: 'no colours' }
		},
		load: async () => (await import('./run.ts')).run
	},
	{
		name: 'merge',
		takes: 'FILE…',
		doc: 'one result of the JSON results of all parts of a run, with its gate and reports',
		options: {
			project,
			...ofServer,
			revision: {
				...ofServer.revision,
				doc: 'with --name: as it was at a revision, by number or name (default: that of the results)'
			},
			report,
			annotate,
			history: { value: 'FILE', doc: 'what a gate remembers of earlier runs: read, and this run added' },
			publish: { value: 'URL', doc: 'send the whole to this server (default: the suite’s own, or none)' },
			'no-publish': { doc: 'send it to none, whatever the suite says' },
			as: { value: 'NAME', doc: 'with --publish: the project there (default: the folder’s name)' },
			'publish-wait': { value: 'DURATION', doc: 'with --publish: how long a server may be away (default: 60 s)' },
			quiet: { doc: 'only what needs a look, and the summary' },
			verbose: { doc: 'every step' },
			'no-color': { doc: 'no colours' }
		},
		load: async () => (await import('./merge.ts')).merge
	},
	{
		name: 'publish',
		takes: 'FILE',
		doc: 'send a result that could not be published',
		options: { server, as: { value: 'NAME', doc: 'the project there (default: the name that it had)' } },
		load: async () => (await import('./publish.ts')).publish
	},
	{
		name: 'check',
		takes: '',
		doc: 'validate the project and lint it; nothing is sent',
		options: {
			project,
			...ofServer,
			env: { value: 'NAME', doc: 'also look whether everything resolves there' },
			secrets: { value: 'FILE', doc: 'secrets as names and values in YAML' }
		},
		load: async () => (await import('./check.ts')).check
	},
	{
		name: 'reach',
		takes: 'TARGET',
		doc: 'a connection’s name or an address: stage by stage',
		options: {
			project: { ...project, doc: 'the project’s folder (default: here); an address needs none' },
			env: { value: 'NAME', doc: 'the environment' },
			secrets: { value: 'FILE', doc: 'secrets as names and values in YAML' },
			method: { value: 'METHOD', doc: 'of the first call (default: GET)' },
			path: { value: 'PATH', doc: 'of the first call, behind the base address' },
			credential: { value: 'NAME', doc: 'tried in place of the connection’s own' },
			suites: { doc: 'also list the cipher suites that the other side takes' },
			json: { doc: 'the whole report as JSON' },
			timeout: { value: 'DURATION', doc: 'stop after so long, such as 30 s' }
		},
		load: async () => (await import('./reach.ts')).reachTarget
	},
	{
		name: 'import',
		takes: 'FILE',
		doc: 'a definition (WSDL, OpenAPI: file, folder, ZIP or address) or a recording (HAR) into a project; a project’s folder into a server',
		options: {
			project,
			name: {
				value: 'NAME',
				doc: 'of the definition, or of the project on the server (default: the file’s or folder’s; the service’s title, where that is a name such as openapi)'
			},
			connection: { value: 'NAME', doc: 'over which calls go, and an address is fetched' },
			env: { value: 'NAME', doc: 'the environment, where an address is fetched' },
			secrets: { value: 'FILE', doc: 'secrets as names and values in YAML' },
			root: {
				value: 'DIR',
				doc: 'the folder in which what a definition refers to is read (default: the file’s own); what lies outside is named, and not read'
			},
			only: {
				value: 'WORD',
				many: true,
				doc: 'scenarios for these operations alone: of an OpenAPI document by tag, operationId, path (/boats, /boats/*) or method and path (GET /boats), of a WSDL by service or operation; of a recording: calls to this host, path, or method and path; repeatable'
			},
			singly: { doc: 'a scenario for each operation, and none for chains of them' },
			mend: {
				doc: 'change the steps that call what has changed, where it is plain how',
				see: '[read again](definitions.md#read-again)'
			},
			'no-scenarios': { doc: 'keep an OpenAPI document for checks by it alone' },
			'other-hosts': { doc: 'also ask hosts other than the address’s for what a definition imports' },
			rehearse: { doc: 'tell what would change; nothing is written' },
			server,
			replace: { doc: 'replace what the server has under that name' },
			vault: {
				value: 'keep|clear',
				doc: 'with --replace: whether the secrets that the server keeps serve what is brought, or are taken out'
			}
		},
		load: async () => (await import('./import.ts')).importAny
	},
	{
		name: 'compare',
		takes: 'OLD NEW',
		doc: 'two versions of an OpenAPI document, files or addresses: what breaks who calls the service',
		options: {
			level: {
				value: 'LEVEL',
				doc: 'what ends with 1: breaking (default), careful (that, too) or harmless (any change)'
			},
			json: { doc: 'the changes as JSON' },
			quiet: { doc: 'leave out what is harmless' },
			project,
			connection: { value: 'NAME', doc: 'the connection of the project that addresses are fetched over' },
			env: { value: 'NAME', doc: 'the environment of that connection' },
			secrets: { value: 'FILE', doc: 'secrets as names and values in YAML' },
			'other-hosts': { doc: 'also fetch what a document refers to at other hosts' }
		},
		load: async () => (await import('./compare.ts')).compare
	},
	{
		name: 'coverage',
		takes: '',
		doc: 'what the steps of a project touch of its definitions, by its files or by results of runs',
		options: {
			project,
			env: { value: 'NAME', doc: 'the environment by which steps are looked at' },
			result: {
				value: 'FILE',
				many: true,
				doc: 'count what was really called: a result of heron run --report json=FILE; repeatable'
			},
			least: {
				value: 'KIND=N',
				many: true,
				doc: 'end with 1 when less than N of 100 are touched: operation, answer, parameter, value, beyond, body, field, choice, security, or all, which is meant by N alone; repeatable'
			},
			all: { doc: 'also list what is touched' },
			html: { value: 'FILE', doc: 'a page of it' },
			json: { doc: 'as JSON' }
		},
		load: async () => (await import('./coverage.ts')).coverage
	},
	{
		name: 'export',
		takes: 'PROJECT FOLDER',
		doc: 'a project of a server as a folder',
		options: {
			server,
			revision: { value: 'R', doc: 'as it was at a revision, by number or name (default: the newest)' },
			replace: { doc: 'write over files that are there' }
		},
		load: async () => (await import('./export.ts')).exportProject
	},
	{
		name: 'workflows',
		takes: '[NAME…]',
		doc: 'collections or collection/scenario as an Arazzo document (workflows), with the definitions that it speaks of',
		options: {
			project,
			output: {
				value: 'DIR',
				doc: 'the folder that it is written to, with its definitions (default: the document alone, to standard output)'
			}
		},
		load: async () => (await import('./workflows.ts')).workflows
	},
	{
		name: 'standins',
		takes: '[NAME…]',
		doc: 'start a project’s stand-ins, all or those named; without a project those of the demo',
		options: {
			project,
			env: { value: 'NAME', doc: 'the environment whose variables and secrets they know' },
			secrets: { value: 'FILE', doc: 'secrets as names and values in YAML' },
			port: {
				value: 'N',
				doc: 'the first of ports that follow each other; 0 for any (default: what the files say, 4681 for the demo)'
			},
			fault: {
				value: 'FAULT',
				many: true,
				doc: 'a fault that is on: its name, or as it is written, such as "status: 503, rate: 10"; repeatable'
			},
			log: { value: 'FILE', doc: 'every call with both messages, a line of JSON each' },
			quiet: { doc: 'print no line for each call' },
			demo: { doc: 'those of the demo, wherever this is' }
		},
		load: async () => (await import('./standins.ts')).standins
	},
	{
		name: 'serve',
		takes: '',
		doc: 'the web application',
		options: {
			port: { value: 'N', doc: 'the port (default: 4680)' },
			host: { value: 'ADDRESS', doc: 'the address to listen at (default: 127.0.0.1)' },
			data: { value: 'DIR', doc: 'where the database lives (default: ./data)' }
		},
		load: async () => (await import('./serve.ts')).serve
	},
	{
		name: 'vault',
		takes: 'rekey',
		doc: 'seal the secrets of a server with another key',
		options: { data: { value: 'DIR', doc: 'where the database lives (default: ./data)' } },
		load: async () => (await import('./vault.ts')).vault
	},
	{
		name: 'schema',
		takes: 'KIND',
		doc: 'the JSON Schema of a file kind',
		options: { all: { value: 'DIR', doc: 'write those of all kinds into a folder, for editors' } },
		load: async () => (await import('./schema.ts')).schema
	}
];
