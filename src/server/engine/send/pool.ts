import type { Transport } from '#core/model/transport.ts';
import http from 'node:http';
import { openSocket } from './socket.ts';

type CreateConnection = http.Agent['createConnection'];

/** Keeps connections for http: and https: alike; every socket comes from the one opener. */
class OpenerAgent extends http.Agent {
	private readonly secure: boolean;
	private readonly connectLimit: number;
	private readonly transport: Transport | undefined;

	constructor(secure: boolean, connectLimit: number, transport: Transport | undefined) {
		super({ keepAlive: true, scheduling: 'lifo', maxSockets: 256, maxFreeSockets: 64 });
		this.secure = secure;
		this.connectLimit = connectLimit;
		this.transport = transport;
		if (secure) Object.assign(this, { defaultPort: 443, protocol: 'https:' });
	}

	override createConnection(...[options, callback]: Parameters<CreateConnection>): undefined {
		const target = {
			host: options.host ?? '',
			port: Number(options.port),
			secure: this.secure,
			connectLimit: this.connectLimit,
			transport: this.transport
		};
		openSocket(target).then(
			(socket) => callback?.(null, socket),
			(error: Error) => callback?.(error, undefined as never)
		);
		return undefined;
	}
}

export interface Pool {
	/** The kept connections of a transport. */
	agent(secure: boolean, connectLimit: number, transport?: Transport): http.Agent;
	close(): void;
}

const AGENTS_KEPT = 500;

/** The kept connections of one engine. */
export function createPool(): Pool {
	const agents = new Map<string, OpenerAgent>();
	return {
		agent(secure, connectLimit, transport) {
			const key = transport ? `${secure} ${connectLimit} ${transport.key}` : `${secure} ${connectLimit}`;
			let agent = agents.get(key);
			if (!agent) {
				if (agents.size >= AGENTS_KEPT) {
					const [oldest] = agents.keys();
					agents.get(oldest!)!.destroy();
					agents.delete(oldest!);
				}
				agents.set(key, (agent = new OpenerAgent(secure, connectLimit, transport)));
			}
			return agent;
		},
		close() {
			for (const agent of agents.values()) agent.destroy();
			agents.clear();
		}
	};
}
