import { coverageHtml, createMadeCollector, plannedCoverage } from '#core/coverage/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import { writeJson, type Json } from '#core/model/json.ts';
import { kindWords, percentOf, talliesOf, type Coverage } from '#core/tallies/index.ts';
import { TALLIES } from '#core/documents/suite.ts';
import type { Workspace } from '#core/project/index.ts';
import { tame } from '#core/tame.ts';
import { writeFileSync } from 'node:fs';
import { one, type Flags, type Io } from './command.ts';
import { environmentOf, openProject } from './project.ts';
import { readResult } from './result-file.ts';

/** `heron coverage`: 0, or 1 when less is touched than `--least` wants; 2 for what cannot be read. */
export async function coverage(io: Io, _: string[], flags: Flags): Promise<number> {
	const folder = openProject(flags);
	const { workspace } = folder;
	const environment = environmentOf(folder, one(flags, 'env') ?? workspace.project.environment);
	const least = leastIn((flags.least as string[] | undefined) ?? []);
	const results = (flags.result as string[] | undefined) ?? [];
	const found = results.length > 0 ? await madeCoverage(workspace, results) : plannedCoverage(workspace, environment);
	if (found.definitions.length === 0) throw new HeronError('usage.noDefinition');
	const html = one(flags, 'html');
	if (html !== undefined) write(html, coverageHtml(found, `Coverage of ${workspace.project.title}`));
	if (flags.json === true) io.out(`${writeJson({ heron: 1, ...found } as unknown as Json)}\n`);
	else for (const line of linesOf(found, flags.all === true)) io.out(`${tame(line)}\n`);
	const tallies = talliesOf(found);
	let short = false;
	for (const [kind, wanted] of least) {
		const tally = tallies.find((each) => each.kind === kind) ?? { touched: 0, all: 0 };
		if (percentOf(tally) >= wanted) continue;
		short = true;
		io.err(`${percentOf(tally)} of 100 ${kindWords(kind)} are touched, and ${wanted} are wanted\n`);
	}
	return short ? 1 : 0;
}

function write(file: string, text: string): void {
	try {
		writeFileSync(file, text);
	} catch (cause) {
		throw new HeronError('usage.unwritable', { what: file, detail: textOf(cause) }, { cause });
	}
}

type Kind = (typeof TALLIES)[number];
/** `operation=80`, or `80` for all of it. */
function leastIn(list: readonly string[]): [Kind, number][] {
	return list.map((text) => {
		const [, kind = 'all', number = ''] = /^(?:([a-z]+)=)?(\d{1,3})$/.exec(text.trim()) ?? [];
		if (number === '' || Number(number) > 100)
			throw new HeronError('usage.option', {
				option: 'least',
				wanted: 'operation=80, or 80 for all of it',
				given: text
			});
		if (!TALLIES.includes(kind as Kind))
			throw new HeronError('usage.tally', { kind, nearest: didYouMean(kind, [...TALLIES]) });
		return [kind as Kind, Number(number)];
	});
}

/** What the calls of results touched. */
async function madeCoverage(workspace: Workspace, files: readonly string[]): Promise<Coverage> {
	const collector = createMadeCollector(workspace);
	for (const file of files)
		await readResult(file, (result) => {
			collector.take(result);
			return Promise.resolve();
		});
	return collector.result();
}

/** @param all also what is touched */
function linesOf(found: Coverage, all: boolean): string[] {
	const out: string[] = [];
	for (const { file, title, operations, trouble } of found.definitions) {
		out.push(`${title ? `${title}, ` : ''}${file}`);
		if (trouble) out.push(`  cannot be looked at: ${trouble}`);
		for (const { name, points, deprecated } of operations) {
			const [called] = points;
			const steps = called?.steps.length ?? 0;
			const touched = points.filter(({ count }) => count > 0);
			out.push(
				`  ${called?.count ? '✓' : '✗'} ${name}${deprecated ? ' (deprecated)' : ''}  ${called?.count ? `${touched.length} of ${points.length}, ${counted(steps, 'step')}` : 'nobody calls it'}`
			);
			const missing = points.filter(({ count }) => count === 0).map((point) => point.name);
			if (called?.count && missing.length > 0) out.push(`      not touched: ${missing.join('; ')}`);
			if (all && touched.length > 0) out.push(`      touched: ${touched.map((point) => point.name).join('; ')}`);
		}
	}
	if (found.unknown.length > 0) {
		out.push('calls that no definition knows');
		for (const { call, steps } of found.unknown) out.push(`  ${call}  ${steps.join(', ')}`);
	}
	out.push('');
	for (const { kind, touched, all: whole } of talliesOf(found))
		out.push(
			`${kindWords(kind).padEnd(40)} ${`${touched} of ${whole}`.padStart(14)} ${String(percentOf({ touched, all: whole })).padStart(5)} %`
		);
	return out;
}
