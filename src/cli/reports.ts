import { HeronError } from '#core/errors.ts';
import type { Verdict } from '#core/gate/index.ts';
import { didYouMean } from '#core/messages.ts';
import {
	ANNOTATIONS,
	annotations,
	consoleReport,
	reportKind,
	reportKinds,
	type Annotations,
	type ReportOptions,
	type ReportSink
} from '#core/reports/index.ts';
import type { RunState } from '#core/run/index.ts';
import type { ProjectFolder } from '#server/engine/index.ts';
import { relative, resolve, sep } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { openOutput, type Output } from './output.ts';

/** The exit code when a report could not be written whole. */
export const NOT_DELIVERED = 4;

type Delivery = Output & { sink: ReportSink };

/** Ends all reports. @returns whether each could be written whole */
export async function deliver(
	io: Io,
	outputs: Delivery[],
	state: RunState,
	exitCode: number,
	gate: Verdict
): Promise<boolean> {
	let delivered = true;
	for (const output of outputs) {
		output.write(output.sink.end(state, exitCode, gate));
		const problem = await output.close();
		if (!problem) continue;
		delivered = false;
		io.err(`heron run: ${problem}\n`);
	}
	return delivered;
}

/**
 * Where steps and checks of a project's collections stand, as the build sees their files.
 * @param borrowed they are those of a server: places are below the project
 */
function placesIn(
	{ dir, documents, workspace }: ProjectFolder,
	borrowed: boolean
): NonNullable<ReportOptions['placeOf']> {
	const from = borrowed ? '' : relative(process.cwd(), resolve(dir)).split(sep).join('/');
	return ({ scenario, index, step, depth }, check) => {
		const [collection = '', id = ''] = scenario.split('/');
		const path = `collections/${collection}.yaml`;
		const at = workspace.collections.get(collection)?.scenarios.findIndex((one) => one.id === id) ?? -1;
		const document = documents.get(path);
		if (at < 0 || !document) return undefined;
		// a step within a call stands in another scenario: its call is told
		const inside = (depth ?? 0) > 0 || step.includes('/');
		const place = document.placeOf([
			...['scenarios', at, 'steps', index],
			...(check === undefined || inside ? [] : ['checks', check])
		]);
		return place && { file: from ? `${from}/${path}` : path, line: place.line, column: place.column };
	};
}

/** @throws HeronError usage.* */
function annotationsOf(flags: Flags): Annotations | undefined {
	const form = one(flags, 'annotate');
	if (form === undefined || (ANNOTATIONS as readonly string[]).includes(form)) return form as Annotations | undefined;
	throw new HeronError('usage.option', { option: 'annotate', wanted: `one of ${ANNOTATIONS.join(', ')}`, given: form });
}

/** Opens all reports before anything is sent, so that a wrong path is found out in time. */
export function openReports(io: Io, flags: Flags, project?: ProjectFolder): Delivery[] {
	const tty = process.stdout.isTTY === true && !io.env.NO_COLOR;
	const options = {
		color: tty && flags['no-color'] !== true,
		detail: flags.quiet ? ('quiet' as const) : flags.verbose ? ('verbose' as const) : ('normal' as const),
		version: io.version,
		...(project ? { placeOf: placesIn(project, one(flags, 'name') !== undefined) } : {})
	};
	const wanted = ((flags.report as string[] | undefined) ?? []).map((text) => {
		const [key = '', ...rest] = text.split('=');
		const kind = reportKind(key);
		if (!kind)
			throw new HeronError('report.kind', {
				name: key,
				nearest: didYouMean(
					key,
					reportKinds.map((k) => k.key)
				)
			});
		const file = rest.join('=');
		if (!file) throw new HeronError('usage.reportFile', { report: key, ending: key === 'junit' ? 'xml' : key });
		return { kind, file };
	});
	const aside = one(flags, 'aside');
	if (aside !== undefined) wanted.push({ kind: reportKind('aside')!, file: aside });
	const toStdout = wanted.filter((one) => one.file === '-').length;
	if (toStdout > 1) throw new HeronError('usage.oneReport');
	const reports = wanted.map(({ kind, file }) => ({ ...openOutput(io, file), sink: kind.open(options) }));
	// where a report takes standard output, what people read goes to standard error
	const raw = toStdout ? { ...io.raw, out: io.raw.err } : io.raw;
	const shown = openOutput({ ...io, raw }, '-');
	// whoever reads it may have seen enough, such as head: that ends the printing, and nothing else
	const close = async () => {
		const trouble = toStdout ? undefined : await io.written();
		return trouble && trouble.code !== 'EPIPE' ? `standard output is not whole: ${trouble.message}` : undefined;
	};
	const form = annotationsOf(flags);
	const marks = form
		? [{ ...shown, close: () => Promise.resolve(undefined), sink: annotations(form).open(options) }]
		: [];
	return [...reports, ...marks, { ...shown, close, sink: consoleReport.open(options) }];
}
