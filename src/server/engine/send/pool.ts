import type { Transport } from '#core/model/transport.ts';
import http from 'node:http';
import type { Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import { openSocket } from './socket.ts';

type CreateConnection = http.Agent['createConnection'];
/** What the agent asks of a call; `fresh`: no kept connection may be taken. */
export type CallOptions = http.RequestOptions & { fresh?: boolean };
const addRequest = (
	http.Agent.prototype as unknown as { addRequest(request: http.ClientRequest, options: CallOptions): void }
).addRequest;

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

	/** Origins that answered what nobody had asked: their connections are not kept any more, and the next call says so. */
	readonly unasked = new Map<string, 'told' | 'untold'>();
	private readonly watched = new WeakMap<Duplex, () => void>();

	/** Bytes that come while nothing is asked belong to no call: they must not become the next one's answer. */
	override keepSocketAlive(socket: Duplex): boolean {
		const origin = this.origins.get(socket) ?? '';
		if (this.unasked.has(origin)) return false;
		if (socket.readableLength > 0) {
			this.unasked.set(origin, 'untold');
			return false;
		}
		const kept = (super.keepSocketAlive as unknown as (socket: Duplex) => boolean)(socket);
		if (!kept) return false;
		const onData = () => {
			this.unasked.set(origin, 'untold');
			socket.destroy();
		};
		this.watched.set(socket, onData);
		socket.on('data', onData);
		return true;
	}
	override reuseSocket(socket: Duplex, request: http.ClientRequest): void {
		const onData = this.watched.get(socket);
		if (onData) socket.off('data', onData);
		super.reuseSocket(socket, request);
	}
	private readonly origins = new WeakMap<Duplex, string>();

	/** Called as a request is made. One that wants a fresh connection passes those that are kept; they stay for others. */
	addRequest(request: http.ClientRequest, options: CallOptions): void {
		const free = this.freeSockets as NodeJS.Dict<Socket[]>;
		const name = options.fresh ? this.getName(options) : '';
		const kept = free[name];
		if (kept) delete free[name];
		addRequest.call(this, request, options);
		if (kept) free[name] = kept;
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
			(socket) => {
				this.origins.set(socket, `${target.host}:${target.port}`);
				callback?.(null, socket);
			},
			(error: Error) => callback?.(error, undefined as never)
		);
		return undefined;
	}
}

export interface Pool {
	/** The kept connections of a transport. */
	agent(secure: boolean, connectLimit: number, transport?: Transport): http.Agent & Pick<OpenerAgent, 'unasked'>;
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
