import { writeJson, type JsonObject } from '../model/json.ts';

/** A token as it was given, with what is needed to know how long it lives and whom it belongs to. */
export interface Token {
	/** The whole reply (RFC 6749 section 5.1), extra fields included. */
	reply: JsonObject;
	/** Milliseconds since 1970. */
	receivedAt: number;
	/** When it ends; 0 when the reply does not say. */
	endsAt: number;
	/** Of the settings it was fetched with: a token of other settings is not used. */
	settings: string;
}

/** Keeps tokens beyond a step and a run; one for each credential in an environment. */
export interface TokenKeeper {
	read(credential: string, environment: string): Token | undefined;
	write(credential: string, environment: string, token: Token | undefined): void;
	/** As `write`, without telling: for what came from where it is kept. */
	take(credential: string, environment: string, token: Token | undefined): void;
	/** Runs `make`, unless somebody is at it for the same credential already: then theirs is waited for. */
	once(credential: string, environment: string, make: () => Promise<Token>): Promise<Token>;
}

/** Keeps tokens in memory; what is written is told on. */
export function createTokenKeeper(
	initial: Iterable<[credential: string, environment: string, token: Token]> = [],
	onWrite: (credential: string, environment: string, token: Token | undefined) => void = () => {}
): TokenKeeper {
	const key = (credential: string, environment: string) => writeJson([credential, environment]);
	const kept = new Map<string, Token>();
	const inProgress = new Map<string, Promise<Token>>();
	for (const [credential, environment, token] of initial) kept.set(key(credential, environment), token);
	const put = (credential: string, environment: string, token: Token | undefined): void => {
		if (token) kept.set(key(credential, environment), token);
		else kept.delete(key(credential, environment));
	};
	return {
		read: (credential, environment) => kept.get(key(credential, environment)),
		take: put,
		write(credential, environment, token) {
			put(credential, environment, token);
			onWrite(credential, environment, token);
		},
		once(credential, environment, make) {
			const at = key(credential, environment);
			let running = inProgress.get(at);
			if (!running) {
				running = make().finally(() => inProgress.delete(at));
				inProgress.set(at, running);
			}
			return running;
		}
	};
}
