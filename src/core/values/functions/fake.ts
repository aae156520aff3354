import type { Faker } from '@faker-js/faker';
import RandExp from 'randexp';
import { compilePattern } from '../pattern.ts';
import type { FunctionPorts } from '../scope.ts';

type Maker = (faker: Faker, ...args: unknown[]) => unknown;

const HULLS = ['narrowboat', 'barge', 'dinghy', 'cruiser', 'tender'];

// KIND → maker. Each is one word that a tester would look for.
const kinds: Record<string, Maker> = {
	boat: (f) =>
		`${f.word.adjective({ length: { min: 4, max: 8 } })} ${f.helpers.arrayElement(HULLS)}`.replace(/^./, (c) =>
			c.toUpperCase()
		),
	person: (f) => f.person.fullName(),
	firstName: (f) => f.person.firstName(),
	lastName: (f) => f.person.lastName(),
	email: (f) =>
		`${f.internet
			.username()
			.toLowerCase()
			.replace(/[^a-z0-9.]/g, '')}@reedmere.example`,
	phone: (f) => f.string.numeric({ length: 11, allowLeadingZeros: false }),
	company: (f) => `${f.person.lastName()} ${f.helpers.arrayElement(['and Sons', 'Boats', 'Carriers', 'Locks'])}`,
	street: (f) => f.location.streetAddress(),
	city: (f) => f.location.city(),
	postcode: (f) => f.location.zipCode(),
	country: (f) => f.location.countryCode(),
	latitude: (f) => f.location.latitude(),
	longitude: (f) => f.location.longitude(),
	word: (f) => f.word.noun(),
	sentence: (f) => f.lorem.sentence(),
	text: (f) => f.lorem.paragraph(),
	integer: (f, min = 0, max = 9999) => f.number.int({ min: Number(min), max: Number(max) }),
	decimal: (f, min = 0, max = 100) => f.number.float({ min: Number(min), max: Number(max), fractionDigits: 2 }),
	boolean: (f) => f.datatype.boolean(),
	date: (f) => f.date.soon({ days: 365, refDate: '2027-01-01' }).toISOString().slice(0, 10),
	pastDate: (f) => f.date.past({ years: 2, refDate: '2026-01-01' }).toISOString().slice(0, 10),
	uuid: (f) => f.string.uuid(),
	dateTime: (f) => f.date.soon({ days: 365, refDate: '2027-01-01' }).toISOString(),
	colour: (f) => f.color.human(),
	choice(f, ...list) {
		if (list.flat().length === 0) throw new Error('$fake.choice wants values to choose from');
		return f.helpers.arrayElement(list.flat());
	},
	matching: (f, pattern = '[A-Z]{2}[0-9]{4}') =>
		matching(String(pattern), (from, to) => f.number.int({ min: from, max: to }))
};

/** More is made of no pattern: a repetition of a million would take the memory. */
const MOST_TIMES = 1000;
const TRIES = 20;

/** A text that the whole of a pattern matches, by the engine that checks use. @throws Error when none is found */
function matching(pattern: string, whole: (from: number, to: number) => number): string {
	if (
		[...pattern.matchAll(/\{(\d+)(?:,(\d*))?\}/g)].some(
			([, least, most]) => Math.max(Number(least), Number(most || 0)) > MOST_TIMES
		)
	)
		throw new Error(`$fake.matching repeats nothing more than ${MOST_TIMES} times`);
	const plain = pattern.replace(/^\^|\$$/g, '');
	const fits = compilePattern(`^(?:${plain})$`);
	const maker = new RandExp(plain);
	maker.max = 5;
	maker.randInt = whole;
	for (let n = 0; n < TRIES; n++) {
		const made = maker.gen();
		if (fits.test(made)) return made;
	}
	throw new Error(`$fake.matching finds no text for ${pattern}`);
}

/** What `$fake` can make up. */
export const fakeKinds = Object.keys(kinds);

/** The library, and what it takes its random numbers from: an instance is made once, as that takes a millisecond. */
interface Library {
	faker: Faker;
	drawFrom(random: () => number): void;
}

async function openLibrary(): Promise<Library> {
	const { faker: shared } = await import('@faker-js/faker/locale/en');
	let next = (): number => 0;
	const randomizer = { next: () => next(), seed: () => {} };
	// the class is taken from the instance: importing it by name would load every language
	const faker = new (shared.constructor as typeof Faker)({ locale: shared.rawDefinitions, randomizer });
	return { faker, drawFrom: (random) => void (next = random) };
}

/** Loads the library at the first call. */
const openOnce = (): (() => Promise<Library>) => {
	let opened: Promise<Library> | undefined;
	return () => (opened ??= openLibrary());
};
const library = openOnce();

/** `$fake`: made-up data, the same for the same seed and order of calls. */
export function makeFake(ports: FunctionPorts): Record<string, (...args: unknown[]) => Promise<unknown>> {
	return Object.fromEntries(
		Object.entries(kinds).map(([name, make]) => [
			name,
			async (...args: unknown[]) => {
				const { faker, drawFrom } = await library();
				// nobody else draws meanwhile: it makes up a value at once
				drawFrom(ports.random);
				return make(faker, ...args);
			}
		])
	);
}
