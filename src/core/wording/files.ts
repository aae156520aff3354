import type { Wordings } from './wording.ts';

/** What is wrong in the files of a project. */
export const files = {
	'yaml.syntax': ['{detail}', { detail: 'this key stands here twice: one of them has to go' }],
	'yaml.conflict': [
		'both sides of a merge stand here, {ours} and {theirs}: one of them has to be chosen',
		{ ours: 'main', theirs: 'season' }
	],
	'yaml.tooLarge': ['the file has {size}; a project file may have up to {limit}', { size: '12 MB', limit: '5 MB' }],
	'file.kind': [
		'no such kind of file: a project holds heron.yaml and the folders {folders}',
		{ folders: 'collections/, suites/' }
	],
	'file.missing': ['there is no file {file} in the project', { file: 'files/permit.pdf' }],
	'file.unread': ['{file} is not YAML at present: mend its text first', { file: 'collections/bookings.yaml' }],
	'file.unreadNames': [
		'{file} is not YAML at present, and may name it: mend its text first',
		{ file: 'collections/bookings.yaml' }
	],
	'file.long': ['{path} is too large to be shown line by line', { path: 'collections/bookings.yaml' }],
	'file.binary': ['{path} is no text', { path: 'files/permit.pdf' }],
	'file.document': ['{path} is not a document', { path: 'files/permit.pdf' }],
	'file.exists': ['there is {path} already', { path: 'collections/bookings.yaml' }],
	'file.none': ['there is no file {path}', { path: 'old.yaml' }],
	'file.broken': ['this file cannot be used: {detail}', { detail: 'it refers to itself' }],
	'path.none': ['there is no {path}', { path: 'definitions/ledger.wsdl' }],
	'model.unknownKey': ['unknown key "{key}"{nearest}', { key: 'chekcs', nearest: ': did you mean "checks"?' }],
	'model.wrong': ['{detail}', { detail: 'parallel is a whole number from 1 to 64' }],
	'model.reference': [
		'there is no {kind} "{name}"{nearest}',
		{ kind: 'connection', name: 'boking', nearest: ': did you mean "bookings"?' }
	],
	'model.item': ['there is no item {key} in a list of {count}', { key: 'x', count: 3 }],
	'name.document': ['"{name}" cannot be a name: small letters, digits and - can', { name: 'My Boats' }],
	'name.variable': ['"{name}" cannot be a name: letters, digits and _ can', { name: 'my-boat' }],
	'name.id': ['"{name}" cannot be an id: letters, digits, _, . and - can', { name: 'my boat' }],
	'name.tag': ['"{name}" cannot be a tag: letters, digits, _ . and - can', { name: 'my tag' }],
	'name.mark': ['"{name}" cannot be a mark: letters, digits, _ . and - can, and not digits alone', { name: '12' }],
	'name.markTaken': ['there is a mark "{name}" already', { name: 'release-3' }],
	'name.taken': ['there is {name} already: two would become one', { name: 'clerk' }],
	'name.dataset': ['"{name}" cannot be its name: it ends with {endings}', { name: 'boats.txt', endings: '.csv, .tsv' }],
	'name.file': ['"{name}" is not the name of a file, such as permit.pdf', { name: 'a/b' }],
	'call.cycle': ['this call leads back to itself: {cycle}', { cycle: 'a → b → a' }],
	'call.value': ['{target} wants a value for {name}: give it under with', { target: 'berths/sign-in', name: 'boat' }],
	'call.endless': 'scenarios call each other without end',
	'lint.json': [
		'the body is not JSON: line {line}, column {column}: {detail}',
		{ line: 12, column: 3, detail: 'a comma is missing' }
	],
	'lint.xml': [
		'the body is not well-formed XML: line {line}, column {column}: {detail}',
		{ line: 12, column: 3, detail: 'a & stands for itself only as &amp;' }
	],
	'lint.comparedType': [
		'{name} is {is} in {from}, and is compared with {as}',
		{ name: '$.id', is: 'a number', from: 'the last answer', as: 'a text' }
	],
	'lint.bodyOnGet': ['{method} with a body: many servers ignore it or refuse the call', { method: 'GET' }],
	'lint.contentType': [
		'Content-Type says {type}, and the body is of kind {kind}',
		{ type: 'text/plain', kind: 'json' }
	],
	'lint.headerName': ['a header "{name}": {near} is meant, perhaps', { name: 'Content-Typ', near: 'Content-Type' }],
	'lint.slashes': 'two slashes in a row in the path',
	'lint.encoding': ['{shown} in an address goes out percent-encoded', { shown: 'ü' }],
	'lint.queryTwice': ['the query parameter {name} is given twice', { name: 'page' }],
	'lint.plainSecret': [
		'{name} looks like a secret in plain: keep it in the vault, and write {$secret.NAME}',
		{ name: 'X-API-Key' }
	],
	'lint.unknownFunction': [
		'expressions know no function ${name}{nearest}',
		{ name: 'upercase', nearest: ': did you mean "uppercase"?' }
	],
	'lint.pathValue': ['nothing gives {name} in the path a value', { name: '{boat}' }],
	'lint.pathUnused': ['the value {name} stands nowhere in the path', { name: 'boat' }],
	'lint.headerTwice': ['the header {name} is given twice', { name: 'Accept' }],
	'lint.status': ['no answer has the status {status}: codes go from 100 to 599', { status: 700 }],
	'lint.noDefinition': 'the answer is held against a definition, and definitions/ holds none',
	'lint.noBaseline': ['there is no baseline {name} yet: approve an answer', { name: 'boats' }],
	'lint.emptyBody': ['{method} without a body: what should change?', { method: 'POST' }],
	'lint.unchecked': 'nothing is checked from this step to the end of its scenario',
	'lint.unusedVariable': ['the variable {name} is used nowhere', { name: 'clerk' }],
	'lint.unusedSecret': ['the secret {name} is used nowhere', { name: 'gateKey' }],
	'lint.unusedOutput': ['"{name}" is kept and not used', { name: 'boatId' }],
	'lint.standInCovered': ['it is never reached: {by} takes all that fits it', { by: 'any-boat' }],
	'project.invalid': ['the project has {count}', { count: '2 problems' }],
	'project.empty': 'there is nothing to run: no scenario is chosen',
	'project.none': ['there is no project in {dir}: heron.yaml is missing', { dir: '.' }],
	'project.broken': ['the project cannot be put together: {detail}', { detail: 'two documents have one name' }],
	'project.reserved': ['"{name}" cannot be a project’s name: the application has pages of that name', { name: 'api' }],
	'project.name': ['"{name}" cannot be a project’s name: small letters, digits and - can', { name: 'My Boats' }],
	'project.linked': [
		'"{name}" is the folder {folder}: what is there is shown, and is not replaced from here',
		{ name: 'reedmere', folder: '../bookings' }
	],
	'project.removed': [
		'a project "{name}" was removed less than a week ago: bring it back, or take another name',
		{ name: 'reedmere' }
	],
	'project.exists': ['the server has a project "{name}" already: --replace writes over it', { name: 'reedmere' }],
	'project.running': ['a run of "{name}" goes on: stop it first', { name: 'reedmere' }],
	'project.large': ['{dir} has more than {limit} files: is it a project?', { dir: '.', limit: 20000 }],
	'environment.none': [
		'there is no environment "{name}"{nearest}',
		{ name: 'prod', nearest: '; known are local, staging' }
	],
	'workflow.none': 'there is no scenario that could be a workflow',
	'workflow.target': [
		'there is no collection or scenario "{name}"{nearest}',
		{ name: 'boking', nearest: ': did you mean "bookings"?' }
	],
	'begin.password':
		'a user name and password do not belong into files: leave them out here, and make a credential of them'
} satisfies Wordings;
