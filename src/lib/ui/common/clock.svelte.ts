import { createSubscriber } from 'svelte/reactivity';

const EVERY_MS = 5000;

/** The time, for what is shown as time left; it ticks only while somebody looks. */
class Clock {
	#subscribe = createSubscriber((update) => {
		const timer = setInterval(update, EVERY_MS);
		return () => clearInterval(timer);
	});
	get now(): number {
		this.#subscribe();
		return Date.now();
	}
}
export const clock = new Clock();
