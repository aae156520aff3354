/** Functions that the language brings itself, as they are offered while typing: JSONata 2.x. */
export const languageFunctions: { name: string; takes: string[]; doc: string }[] = [
	{ name: 'string', takes: ['value'], doc: 'As text; objects and lists as JSON.' },
	{ name: 'number', takes: ['text'], doc: 'As a number.' },
	{ name: 'boolean', takes: ['value'], doc: 'Whether it counts as true.' },
	{ name: 'exists', takes: ['value'], doc: 'Whether it is there.' },
	{ name: 'length', takes: ['text'], doc: 'How many characters it has.' },
	{ name: 'substring', takes: ['text', 'start', 'length?'], doc: 'A piece, from a place counted from 0.' },
	{ name: 'substringBefore', takes: ['text', 'mark'], doc: 'What stands before a mark.' },
	{ name: 'substringAfter', takes: ['text', 'mark'], doc: 'What stands behind a mark.' },
	{ name: 'uppercase', takes: ['text'], doc: 'In capitals.' },
	{ name: 'lowercase', takes: ['text'], doc: 'In small letters.' },
	{ name: 'trim', takes: ['text'], doc: 'Without blanks at the ends.' },
	{ name: 'pad', takes: ['text', 'width', 'with?'], doc: 'Filled up to a width; on the left when it is negative.' },
	{ name: 'contains', takes: ['text', 'pattern'], doc: 'Whether a text or /pattern/ occurs in it.' },
	{ name: 'split', takes: ['text', 'separator', 'limit?'], doc: 'The pieces between separators.' },
	{ name: 'join', takes: ['list', 'separator?'], doc: 'A list of texts as one.' },
	{ name: 'match', takes: ['text', '/pattern/'], doc: 'Where a pattern matches, with its groups.' },
	{ name: 'replace', takes: ['text', 'pattern', 'with', 'limit?'], doc: 'With other text in the place of some.' },
	{ name: 'sum', takes: ['list'], doc: 'The sum of numbers.' },
	{ name: 'max', takes: ['list'], doc: 'The largest number.' },
	{ name: 'min', takes: ['list'], doc: 'The smallest number.' },
	{ name: 'average', takes: ['list'], doc: 'The mean of numbers.' },
	{ name: 'abs', takes: ['number'], doc: 'Without its sign.' },
	{ name: 'floor', takes: ['number'], doc: 'Rounded down.' },
	{ name: 'ceil', takes: ['number'], doc: 'Rounded up.' },
	{ name: 'round', takes: ['number', 'places?'], doc: 'Rounded, half to even.' },
	{ name: 'formatNumber', takes: ['number', 'picture'], doc: 'Written by a picture such as "#,##0.00".' },
	{ name: 'count', takes: ['list'], doc: 'How many there are.' },
	{ name: 'append', takes: ['list', 'list'], doc: 'One list behind the other.' },
	{ name: 'sort', takes: ['list', 'function?'], doc: 'In order.' },
	{ name: 'reverse', takes: ['list'], doc: 'From its end.' },
	{ name: 'distinct', takes: ['list'], doc: 'Each value once.' },
	{ name: 'keys', takes: ['object'], doc: 'Its names.' },
	{ name: 'lookup', takes: ['object', 'name'], doc: 'The value of a name.' },
	{ name: 'merge', takes: ['list'], doc: 'Several objects as one; later ones win.' },
	{ name: 'map', takes: ['list', 'function'], doc: 'Each value as a function makes it.' },
	{ name: 'filter', takes: ['list', 'function'], doc: 'Those for which a function gives true.' },
	{ name: 'reduce', takes: ['list', 'function', 'start?'], doc: 'One value of all.' },
	{ name: 'now', takes: [], doc: 'The time now as ISO text.' },
	{ name: 'millis', takes: [], doc: 'The time now, in milliseconds since 1970.' },
	{ name: 'toMillis', takes: ['text', 'picture?'], doc: 'Milliseconds since 1970 of an ISO time.' },
	{ name: 'fromMillis', takes: ['number', 'picture?'], doc: 'A time of milliseconds since 1970 as text.' },
	{ name: 'type', takes: ['value'], doc: 'What it is: string, number, array …' }
];

/** Functions of the language that are not in the list above: they work, and are seldom needed. */
const SELDOM = [
	...['assert', 'base64decode', 'base64encode', 'clone', 'decodeUrl', 'decodeUrlComponent', 'each', 'encodeUrl'],
	...['encodeUrlComponent', 'error', 'eval', 'formatBase', 'formatInteger', 'not', 'parseInteger', 'power', 'random'],
	...['shuffle', 'sift', 'single', 'spread', 'sqrt', 'zip']
];

/** Every function of the language by name. */
export const languageNames: readonly string[] = [...languageFunctions.map(({ name }) => name), ...SELDOM];
