import { PAGE_STYLE, pageText as text } from '../reports/index.ts';
import { countOf, kindWords, percentOf, talliesOf, type Coverage, type CoveredOperation } from '../tallies/index.ts';

const row = ({ name, title, deprecated, points }: CoveredOperation): string => {
	const missing = points.filter(({ count }) => count === 0);
	const [called] = points;
	const steps = called?.steps ?? [];
	const list = (words: string[]) => words.map((one) => `<code>${text(one)}</code>`).join(', ');
	return `<tr><td class="data${called?.count ? '' : ' bad'}">${text(name)}${deprecated ? ' (deprecated)' : ''}<br><span class="quiet">${text(title)}</span></td><td class="data">${percentOf(countOf(points))} %</td><td>${missing.length === 0 ? 'nothing' : list(missing.map((one) => one.name))}</td><td>${list(steps)}</td></tr>`;
};

/** Coverage as a page that stands by itself. */
export function coverageHtml(coverage: Coverage, title: string): string {
	const tallies = talliesOf(coverage)
		.map(
			({ kind, touched, all }) =>
				`<tr><td>${kindWords(kind)}</td><td class="data">${touched} of ${all}</td><td class="data">${percentOf({ touched, all })} %</td></tr>`
		)
		.join('');
	const definitions = coverage.definitions
		.map(
			({ file, title: own, operations, trouble }) =>
				`<h2>${text(own || file)}</h2><p class="quiet">${text(file)}</p>${trouble ? `<p class="bad">${text(trouble)}</p>` : ''}<table><tr><th>Operation</th><th>Touched</th><th>What no test touches</th><th>Steps</th></tr>${operations.map(row).join('')}</table>`
		)
		.join('');
	const unknown =
		coverage.unknown.length === 0
			? ''
			: `<h2>Calls that no definition knows</h2><table>${coverage.unknown.map(({ call, steps }) => `<tr><td class="data">${text(call)}</td><td>${steps.map((one) => `<code>${text(one)}</code>`).join(', ')}</td></tr>`).join('')}</table>`;
	return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'"><title>${text(title)}</title><style>${PAGE_STYLE}</style></head><body><h1>${text(title)}</h1><table>${tallies}</table>${definitions}${unknown}</body></html>\n`;
}
