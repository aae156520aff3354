import { tame } from '../tame.ts';
import { isBad, standingOf } from '../run/index.ts';
import type { ReportKind } from './kind.ts';
import { faultsWithPlaces } from './sarif.ts';

/** A build's log takes so many: what is beyond is in a report. */
const MOST = 50;

/** The lines of build systems that make a mark at a file and line of what they read in a log. */
export const ANNOTATIONS = ['github', 'azure', 'plain'] as const;
/** A build system in whose form findings are written beside the output. */
export type Annotations = (typeof ANNOTATIONS)[number];

/** Texts and properties of a GitHub workflow command. */
const githubText = (text: string): string => text.replace(/%/g, '%25').replace(/\r/g, '%0D').replace(/\n/g, '%0A');
const githubValue = (text: string): string => githubText(text).replace(/:/g, '%3A').replace(/,/g, '%2C');
/** Those of a logging command of Azure Pipelines. */
const azureText = (text: string): string => text.replace(/%/g, '%AZP25').replace(/\r/g, '%0D').replace(/\n/g, '%0A');
const azureValue = (text: string): string => azureText(text).replace(/;/g, '%3B').replace(/\]/g, '%5D');

type Line = (message: string, place?: { file: string; line: number; column: number }) => string;
const LINES: Record<Annotations, Line> = {
	github: (message, place) =>
		`::error${place ? ` file=${githubValue(place.file)},line=${place.line},col=${place.column}` : ''}::${githubText(message)}`,
	azure: (message, place) =>
		`##vso[task.logissue type=error${
			place ? `;sourcepath=${azureValue(place.file)};linenumber=${place.line};columnnumber=${place.column}` : ''
		}]${azureText(message)}`,
	plain: (message, place) => (place ? `${place.file}:${place.line}:${place.column}: ${message}` : message)
};

/** Lines for a build's log. */
export const annotations = (form: Annotations): ReportKind => ({
	key: `annotate-${form}`,
	ending: 'txt',
	label: 'annotations',
	doc: 'Lines of a build’s log at file and line of what did not pass.',
	open({ placeOf }) {
		let count = 0;
		return {
			event(event) {
				if (event.type !== 'step' || !isBad(standingOf(event.result))) return '';
				return faultsWithPlaces(event.result, placeOf)
					.filter(() => count++ < MOST)
					.map(({ message, place }) => `${LINES[form](tame(message), place)}\n`)
					.join('');
			},
			end: () => (count > MOST ? `and ${count - MOST} more: a report has them all\n` : '')
		};
	}
});
