import { REPORT_FILES, type PipelineChoice, type ReportName } from './kind.ts';

/** The results of all parts; the shell finds them. */
const PARTS = 'parts/*.json';

/** A text as a word of a POSIX shell (Shell Command Language, 2.2.2). */
export const word = (text: string): string =>
	/^[\w@%+=:,./-]+$/.test(text) ? text : `'${text.replace(/'/g, `'\\''`)}'`;
/** The same with variables of the shell, or of the build system, in it. */
const open = (text: string): string => (/^[\w@%+=:,./$-]+$/.test(text) ? text : `"${text}"`);

/** Where a pipeline keeps the results of its runs. */
const HISTORY = 'history/runs.jsonl';
/** The folder of it. */
export const [HISTORY_FOLDER = ''] = HISTORY.split('/');

const publishing = ({ publish, as }: PipelineChoice): string[] =>
	publish ? ['--publish', word(publish), '--as', word(as)] : [];
const remembering = ({ history }: PipelineChoice): string[] => (history ? ['--history', HISTORY] : []);
const reporting = (names: readonly ReportName[], out: string): string[] =>
	names.flatMap((name) => ['--report', `${name}=${out}/${REPORT_FILES[name]}`]);
const project = ({ folder, server, as, revision }: PipelineChoice): string[] => {
	if (server)
		return ['--server', word(server), '--name', word(as), ...(revision ? ['--revision', word(revision)] : [])];
	return folder === '.' ? [] : ['--project', word(folder)];
};
/** Variables with the token of the server, for an agent that publishes; those that run parts publish nothing. */
export const publishTokens = ({ server, publish }: PipelineChoice): string[] =>
	server || publish ? ['HERON_TOKEN'] : [];
/** The same for an agent that takes the project from the server. */
export const readTokens = ({ server }: PipelineChoice): string[] => (server ? ['HERON_TOKEN'] : []);

/** A long command on several lines, an option on each. @param parts words of a shell */
function lines(parts: string[], last: string[] = []): string {
	const out: string[] = [];
	for (let at = 0; at < parts.length; at++) {
		const next = parts[at + 1];
		if (parts[at]!.startsWith('--') && next !== undefined && !next.startsWith('--')) {
			out.push(`${parts[at]} ${next}`);
			at++;
		} else out.push(parts[at]!);
	}
	const head = out.splice(0, 3).join(' ');
	return [head, ...out, ...last].join(' \\\n  ');
}

/** Before anything is sent. */
export const checkCommand = (choice: PipelineChoice): string =>
	lines(['heron', 'check', ...project(choice), ...(choice.environment ? ['--env', word(choice.environment)] : [])]);

/** The whole suite on one agent. */
export const runCommand = (choice: PipelineChoice): string =>
	lines([
		...['heron', 'run', word(choice.suite), ...project(choice)],
		...(choice.environment ? ['--env', word(choice.environment)] : []),
		...['--report', 'junit=out/junit.xml', ...reporting(choice.reports, 'out')],
		...remembering(choice),
		...publishing(choice)
	]);

/**
 * One part on one agent. What did not pass is judged with the other parts, so that it does not end the agent.
 * @param index and `count` may be variables of the shell
 */
export const partCommand = (choice: PipelineChoice, index: string, count: string): string =>
	lines(
		[
			...['heron', 'run', word(choice.suite), ...project(choice)],
			...(choice.environment ? ['--env', word(choice.environment)] : []),
			...['--shard', open(`${index}/${count}`), '--report', open(`json=parts/${index}.json`)]
		],
		['|| test $? -eq 1 -o $? -eq 3']
	);

/** One result of the parts. */
export const mergeCommand = (choice: PipelineChoice): string =>
	lines([
		...['heron', 'merge', PARTS, ...project(choice)],
		...['--report', 'junit=out/junit.xml', ...reporting(choice.reports, 'out')],
		...remembering(choice),
		...publishing(choice)
	]);
