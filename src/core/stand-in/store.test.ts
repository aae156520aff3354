import { describe, expect, test } from 'vitest';
import { seeded } from '../model/seed.ts';
import type { JsonObject } from '../model/json.ts';
import { parseStandIn } from '../documents/stand-in.ts';
import { createStore } from './store.ts';

const store = () => createStore(parseStandIn('own', { stores: { things: { key: 'id' } } }).stores.get('things')!);

/** What a store should hold, as plainly as can be. */
class Plain {
	things = new Map<string, JsonObject>();
	do(verb: string, key: string, value: JsonObject): string {
		const there = this.things.get(key);
		if (verb === 'add') {
			if (there) return 'exists';
			this.things.set(key, { ...value, id: key });
			return 'done';
		}
		if (verb === 'put') {
			this.things.set(key, { ...value, id: key });
			return 'done';
		}
		if (!there) return 'missing';
		if (verb === 'remove') this.things.delete(key);
		if (verb === 'replace') this.things.set(key, { ...value, id: key });
		if (verb === 'change') this.things.set(key, { ...there, ...value, id: key });
		return 'done';
	}
}

describe('a store does what a plain map would', () => {
	test.each([1, 2, 3, 4, 5])('over two thousand steps at random (%i)', (seed) => {
		const random = seeded(seed);
		const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
		const [real, plain] = [store(), new Plain()];
		for (let n = 0; n < 2000; n++) {
			const verb = pick(['add', 'add', 'put', 'read', 'replace', 'change', 'remove']);
			const key = `k${Math.floor(random() * 12)}`;
			const value: JsonObject = { [pick(['a', 'b'])]: n };
			const wanted = plain.do(verb, key, value);
			const done =
				verb === 'add'
					? real.add({ id: key, ...value }, 0)
					: verb === 'put'
						? real.put(key, value, 0)
						: verb === 'read'
							? real.read(key, 0)
							: verb === 'replace'
								? real.replace(key, value, 0)
								: verb === 'change'
									? real.change(key, value, 0)
									: real.remove(key, 0);
			const came = 'value' in done ? 'done' : 'exists' in done ? 'exists' : 'missing' in done ? 'missing' : 'other';
			expect(`${n} ${verb} ${key}: ${came}`).toBe(`${n} ${verb} ${key}: ${wanted}`);
		}
		const sorted = (list: JsonObject[]) => [...list].sort((a, b) => String(a.id).localeCompare(String(b.id)));
		expect(sorted(real.all())).toEqual(sorted([...plain.things.values()]));
		expect(real.size()).toBe(plain.things.size);
	});
});
