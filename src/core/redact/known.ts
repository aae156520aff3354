import { maskOf } from '../model/mask.ts';
import { LEAST_MADE } from '../weakness.ts';
import { formsOf } from './forms.ts';

/** How many values that were made with secrets are hidden at a time, the newest ones. */
const MADE_KEPT = 50;

/** A form in which a value may stand, and what is shown in its place. */
export interface Hidden {
	form: string;
	mask: string;
	/** In octets of another charset than UTF-8. */
	octets?: string;
}

const hiddenOf = (name: string, value: string): Hidden[] => {
	const mask = maskOf(name);
	const { texts, octets } = formsOf(value);
	return [
		...texts.map((form) => ({ form, mask })),
		...octets.map(({ form, mask: write }) => ({ form, mask, octets: write(mask) }))
	];
};

/** The values that are hidden: for good, the newest of those that were made, and those that are held for a while. */
export class Known {
	/** All forms, the longest first, so that a secret that contains another is hidden whole. */
	list: readonly Hidden[] = [];
	/** Whether a number may be one of them. */
	numeric = false;
	readonly #strict: boolean;
	readonly #known = new Set<string>();
	readonly #fixed: Hidden[] = [];
	readonly #lasting: { text: string; mask: string }[] = [];
	readonly #recent = new Map<string, Hidden[]>();
	/** What is hidden for a while, and by how many. */
	readonly #held = new Map<string, { name: string; forms: Hidden[]; holders: number }>();

	constructor(secrets: Record<string, string>, strict: boolean) {
		this.#strict = strict;
		for (const [name, value] of Object.entries(secrets)) this.#add(name, value);
		this.#order();
	}

	/** Values whose UTF-16 is looked for as well. */
	wide(): { text: string; mask: string }[] {
		const held = [...this.#held].map(([text, { name }]) => ({ text, mask: maskOf(name) }));
		return [...this.#lasting, ...held];
	}

	learn(name: string, value: string): void {
		if (this.#add(name, value)) this.#order();
	}

	made(name: string, value: string, lasts: boolean): void {
		if ((!this.#strict && value.length < LEAST_MADE) || !value || this.#known.has(value)) return;
		if (lasts) return this.learn(name, value);
		const before = this.#recent.get(value);
		this.#recent.delete(value);
		this.#recent.set(value, before ?? [{ form: value, mask: maskOf(name) }]);
		if (before) return;
		if (this.#recent.size > MADE_KEPT) this.#recent.delete(this.#recent.keys().next().value!);
		this.#order();
	}

	hold(name: string, value: string): () => void {
		if (value.length < LEAST_MADE || this.#known.has(value)) return () => {};
		const found = this.#held.get(value) ?? { name, forms: hiddenOf(name, value), holders: 0 };
		this.#held.set(value, found);
		if (++found.holders === 1) this.#order();
		let holding = true;
		return () => {
			if (!holding) return;
			holding = false;
			if (--found.holders > 0) return;
			this.#held.delete(value);
			this.#order();
		};
	}

	/** Whether it was not known. Empty values are no secrets. */
	#add(name: string, value: string): boolean {
		if (!value || this.#known.has(value)) return false;
		this.#known.add(value);
		this.#fixed.push(...hiddenOf(name, value));
		this.#lasting.push({ text: value, mask: maskOf(name) });
		return true;
	}

	#order(): void {
		const held = [...this.#held.values()].flatMap(({ forms }) => forms);
		const all = [...this.#fixed, ...[...this.#recent.values()].flat(), ...held];
		this.list = all.sort((a, b) => b.form.length - a.form.length);
		this.numeric = this.list.some(({ form }) => /^[-+.\deE]+$/.test(form));
	}
}
