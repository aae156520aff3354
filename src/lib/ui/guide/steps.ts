/** What a step of the guide can see of the page. */
export interface Seen {
	/** The path below the project, such as `collections/bookings`. */
	place: string;
	environment: string;
	/** The newest run; empty where there is none, undefined before anybody has looked. */
	run: string | undefined;
	/** Whether something is on the page, by a selector of CSS. */
	shows(selector: string): boolean;
}
export interface GuideStep {
	title: string;
	text: string;
	/** Where it happens, below the project. */
	place: string;
	/** Whether it was done, by what was seen when it began and what is seen now; left out where only people know. */
	done?: (now: Seen, before: Seen) => boolean;
}

export const guideSteps: readonly GuideStep[] = [
	{
		title: 'Open the daily work of the demo',
		text: 'Collections hold scenarios, scenarios hold steps. Mooring bookings signs in, finds a free berth, books, changes and cancels, against a simulated service.',
		place: 'collections/bookings',
		done: ({ place }) => place === 'collections/bookings'
	},
	{
		title: 'Run a scenario',
		text: 'Press “Run this” at the head of the first one. Its rows fill in as it goes: status, time, size, what is kept, what is checked.',
		place: 'collections/bookings',
		done: ({ run }, before) => run !== before.run
	},
	{
		title: 'Read an answer',
		text: 'Click step 3, “Three nights at the first free berth”: on the left what is sent, on the right what came back.',
		place: 'collections/bookings',
		done: ({ shows }) => shows('[data-facet="answer"]')
	},
	{
		title: 'Make a check of what came back',
		text: 'Click a value in the answer, and “check this”. It is judged at once, and with every run from now on; Ctrl+Z takes it back.',
		place: 'collections/bookings'
	},
	{
		title: 'Look at what needs a look',
		text: 'Open a run with a failure: failures first, expected against received, the exchange one click away, and since when.',
		place: 'runs',
		done: ({ place }) => /^runs\/[^/]+$/.test(place) && place !== 'runs/step'
	},
	{
		title: 'The same scenarios elsewhere',
		text: 'Choose another environment at the foot of the page: other addresses, other values. “Values” shows all of them in one table.',
		place: 'values',
		done: ({ environment }, before) => environment !== before.environment
	},
	{
		title: 'Take it into a pipeline',
		text: '“The ready script” of a suite is a whole workflow for a build system, and the practice run beside it does on this machine what the first build would do.',
		place: 'suites',
		done: ({ place }) => /^suites\/[^/]+$/.test(place)
	}
];
