import { createClock } from '#server/engine/clock.ts';
import { expect, test } from 'vitest';

test('the clock is finer than milliseconds, and follows the machine’s when that is set or has slept', () => {
	let [wall, steady] = [1_800_000_000_000, 50.25];
	const now = createClock(
		() => wall,
		() => steady
	);
	steady += 0.4;
	expect(now()).toBeCloseTo(1_800_000_000_000.4, 3);
	[wall, steady] = [wall + 1000, steady + 999.6];
	expect(now()).toBeCloseTo(1_800_000_001_000, 3);
	// asleep for an hour: the steady clock stood still
	wall += 3_600_000;
	expect(now()).toBe(1_800_003_601_000);
	steady += 0.5;
	expect(now()).toBeCloseTo(1_800_003_601_000.5, 3);
	// set back
	wall -= 86_400_000;
	expect(now()).toBe(wall);
});
test('the clock is not behind the machine’s, though the process was held up between its looks at the two', () => {
	let [wall, steady] = [1_800_000_000_000, 56];
	const now = createClock(
		() => wall,
		() => steady
	);
	// six milliseconds went by between the two
	[wall, steady] = [wall + 10, 60];
	expect(now()).toBe(1_800_000_000_010);
	steady += 0.5;
	expect(now()).toBeCloseTo(1_800_000_000_010.5, 3);
});
