import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { toasts } from './toast.svelte.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
	for (const { id } of toasts.list) toasts.close(id);
	vi.useRealTimers();
});
const texts = () => toasts.list.map(({ text }) => text);
const offer = { label: 'undo', run: () => {} };

test('a message goes after a while, one that offers something later, trouble when it is closed', () => {
	toasts.show('saved');
	toasts.show('deleted', 'note', offer);
	toasts.show('not saved', 'trouble');
	vi.advanceTimersByTime(5000);
	expect(texts()).toEqual(['deleted', 'not saved']);
	vi.advanceTimersByTime(20_000);
	expect(texts()).toEqual(['not saved']);
});
test('none goes while somebody is at one of them: it would move away under the pointer', () => {
	toasts.show('deleted', 'note', offer);
	toasts.show('saved');
	toasts.hold();
	toasts.show('saved again');
	vi.advanceTimersByTime(60_000);
	expect(texts()).toEqual(['deleted', 'saved', 'saved again']);
	toasts.letGo();
	vi.advanceTimersByTime(5000);
	expect(texts()).toEqual(['deleted']);
});
test('the others go after one was closed, which tells nobody that the pointer has left it', () => {
	toasts.show('deleted', 'note', offer);
	toasts.show('saved');
	toasts.hold();
	toasts.close(toasts.list[0]!.id);
	vi.advanceTimersByTime(5000);
	expect(texts()).toEqual([]);
});
