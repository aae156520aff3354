import type { Offer } from '#core/model/definition-plan.ts';

/** An offer as a row; operations of a chain show up below it, once it is not taken as a whole. */
export interface OfferRow {
	offer: Offer;
	within: boolean;
}

/** The rows that a search leaves: words of title, path, operation or tag. */
export function offerRows(offers: Offer[], chosen: ReadonlySet<string>, search: string): OfferRow[] {
	const words = search.toLowerCase().split(/\s+/).filter(Boolean);
	const fits = ({ title, id, tags, operations }: Offer): boolean => {
		const text = [title, id, ...tags, ...operations].join(' ').toLowerCase();
		return words.every((word) => text.includes(word));
	};
	const chains = new Map(offers.filter(({ why }) => why !== '').map((one) => [one.key, one]));
	return offers.flatMap((offer): OfferRow[] => {
		const chain = chains.get(offer.chain);
		if (!chain) return fits(offer) ? [{ offer, within: false }] : [];
		// what a chain calls is not called once more by itself
		return !chosen.has(chain.key) && (fits(offer) || fits(chain)) ? [{ offer, within: true }] : [];
	});
}

/** Keys after one was taken in or left out. Taking a chain leaves out what it calls. */
export function toggled(offers: Offer[], chosen: readonly string[], keys: readonly string[], on: boolean): string[] {
	const next = new Set(chosen);
	for (const key of keys) {
		if (on) next.add(key);
		else next.delete(key);
		const isChain = offers.some((one) => one.key === key && one.why !== '');
		if (on && isChain) for (const one of offers) if (one.chain === key) next.delete(one.key);
	}
	return [...next];
}
