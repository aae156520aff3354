/** The colours of the theme, as they are now. */
export interface Colors {
	ink: string;
	quiet: string;
	line: string;
	sheet: string;
	rule: string;
	pass: string;
	fail: string;
	error: string;
	act: string;
	font: string;
}

export function colorsNow(): Colors {
	const style = getComputedStyle(document.documentElement);
	const of = (name: string) => style.getPropertyValue(name).trim();
	return {
		ink: of('--color-base-content'),
		quiet: of('--quiet'),
		line: of('--line'),
		sheet: of('--sheet'),
		rule: of('--color-base-300'),
		pass: of('--color-success'),
		fail: of('--color-error'),
		error: of('--color-info'),
		act: of('--color-primary'),
		font: getComputedStyle(document.body).fontFamily
	};
}
