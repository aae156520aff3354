/** The line at the right of the waterline: which keys act on what is shown. */
class Hints {
	text = $state('? keys');
}
export const hints = new Hints();
