import http from 'node:http';
import { openSocket } from './socket.ts';

type CreateConnection = http.Agent['createConnection'];

/** Keeps connections for http: and https: alike; every socket comes from the one opener. */
class OpenerAgent extends http.Agent {
	private readonly secure: boolean;
	private readonly connectLimit: number;

	constructor(secure: boolean, connectLimit: number) {
		super({ keepAlive: true, scheduling: 'lifo', maxSockets: 256, maxFreeSockets: 64 });
		this.secure = secure;
		this.connectLimit = connectLimit;
		if (secure) Object.assign(this, { defaultPort: 443, protocol: 'https:' });
	}

	override createConnection(...[options, callback]: Parameters<CreateConnection>): undefined {
		const target = {
			host: options.host ?? '',
			port: Number(options.port),
			secure: this.secure,
			connectLimit: this.connectLimit
		};
		openSocket(target).then(
			(socket) => callback?.(null, socket),
			(error: Error) => callback?.(error, undefined as never)
		);
		return undefined;
	}
}

export interface Pool {
	agent(secure: boolean, connectLimit: number): http.Agent;
	close(): void;
}

/** The kept connections of one engine. */
export function createPool(): Pool {
	const agents = new Map<string, OpenerAgent>();
	return {
		agent(secure, connectLimit) {
			const key = `${secure} ${connectLimit}`;
			let agent = agents.get(key);
			if (!agent) agents.set(key, (agent = new OpenerAgent(secure, connectLimit)));
			return agent;
		},
		close() {
			for (const agent of agents.values()) agent.destroy();
			agents.clear();
		}
	};
}
