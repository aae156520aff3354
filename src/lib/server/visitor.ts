import { AsyncLocalStorage } from 'node:async_hooks';
import { randomUUID } from 'node:crypto';
import type { Cookies } from '@sveltejs/kit';

/** By which browsers are told apart; it names nobody and opens nothing. */
const VISITOR_COOKIE = 'visitor';
const here = new AsyncLocalStorage<string>();

/** The browser that something is done for; empty where no page asked. */
export const currentVisitor = (): string => here.getStore() ?? '';

/** Does something for a browser. What steps that are sent by hand leave behind, such as cookies, is its own. */
export function forVisitor<T>(cookies: Cookies, secure: boolean, page: boolean, act: () => T): T {
	let visitor = cookies.get(VISITOR_COOKIE) ?? '';
	if (!/^[\da-f-]{36}$/.test(visitor)) {
		visitor = '';
		if (page) {
			visitor = randomUUID();
			cookies.set(VISITOR_COOKIE, visitor, { path: '/', httpOnly: true, sameSite: 'strict', secure });
		}
	}
	return here.run(visitor, act);
}
