// Before anything is drawn: the theme of the system, until one is chosen here.
(() => {
	const dark = matchMedia('(prefers-color-scheme: dark)');
	const follow = () => {
		if (/(^|;\s*)theme=/.test(document.cookie)) return;
		document.documentElement.dataset.theme = dark.matches ? 'dusk' : 'almanac';
	};
	follow();
	dark.addEventListener('change', follow);
})();
