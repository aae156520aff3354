import type { Wordings } from './wording.ts';

/** The server, its store, and what its pages ask for. */
export const server = {
	'store.taken':
		'another server (process {pid}) works with the data in {dir}: stop it, or give this one another folder',
	'store.missing':
		'the database engine is not here (sqlite3, {detail}): serve and open need it, run, check, reach and merge do without. npm install sqlite3 fetches or compiles it',
	'store.failed': 'the database could not be used: {detail}',
	'store.readOnly':
		'the database cannot be written: {detail}. What you see is not lost; free the file or the disk and try again',
	'store.conflict': 'this was changed elsewhere in the meantime (revision {current}, yours was based on {base})',
	'folder.failed': '{path} cannot be used: {detail}',
	'folder.elsewhere': 'folders are opened below {folders}: {folder} lies elsewhere',
	'folder.unnamed':
		'this server can be reached from other machines: it opens folders below those that HERON_FOLDERS names',
	'folder.holds': '{folder} holds files of a project already: open it as a project of its own',
	'request.notFound': '{what} was not found',
	'request.json': 'the body is not JSON',
	'request.shape': 'the request cannot be taken: {detail}',
	'request.number': '{name}: "{text}" is not a number from 0',
	'request.value': 'a value or text, and the revision it is based on, are wanted',
	'request.revision': 'the revision it is based on is wanted: ?revision=N',
	'request.of': 'env or secret is wanted',
	'door.name': 'this server does not answer to the name {name}: add it to HERON_HOSTS',
	'door.origin': 'a page of {origin} may not do this',
	'door.ended': 'this token has ended, was revoked, or is none',
	'door.grant': 'this token lets somebody {may} the project {project}, and nothing else',
	'door.network': 'this server takes nothing from other machines: it was started without HERON_TOKEN',
	'door.token': 'a token is wanted: one of the project, or the one that the server was started with (HERON_TOKEN)',
	'callout.address': 'an address of the web is wanted, such as https://chat.reedmere.example/in, this is "{address}"',
	'callout.password': 'an address without user and password is wanted',
	'clock.wrong': 'it cannot run by this clock: {detail}',
	'compare.large': 'run {number} has {count} results: runs of up to {limit} can be compared',
	'report.kind': 'there is no report "{name}"{nearest}',
	'practice.shell': 'the script wants a POSIX shell, and this machine has none',
	'practice.folder': '"{folder}" is no folder within a repository',
	'token.day': 'until: a day is wanted, such as 2027-03-31',
	'token.past': 'until: that day has passed',
	'token.year': 'until: a year at the most',
	'version.none': 'the project is in no folder',
	'version.foreign': '{path} is no file of the project',
	'version.git': 'git: {detail}',
	'server.failed': 'something went wrong inside: {detail}'
} satisfies Wordings;
