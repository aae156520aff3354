import type { PreparedRequest } from '#core/model/exchange.ts';
import type { Reply } from '#core/model/reply.ts';
import { plainTransport, type Proxy, type Transport } from '#core/model/transport.ts';
import type { Direct } from '#core/reach/index.ts';
import type { SendOutcome } from '#core/run/index.ts';

const LIMITS = { connect: 3000, reply: 3000, whole: 5000 };
const DOUBTFUL = [401, 403, 502, 503, 504];

/**
 * Asks what a refusal means that came by way of a proxy that passes calls on: the API itself, and where that cannot be
 * asked, the proxy for a user that nobody has. The call must hold no credential.
 */
export async function pastProxy(
	proxy: Proxy,
	call: PreparedRequest,
	said: Reply,
	send: (call: PreparedRequest) => Promise<SendOutcome>
): Promise<{ direct?: Direct; whoever: boolean }> {
	if (!DOUBTFUL.includes(said.status)) return { whoever: false };
	const usual = call.transport ?? plainTransport();
	const ask = async (transport: Transport) => {
		const redirects = { ...call.redirects, follow: 0 };
		const { exchanges, error } = await send({ ...call, transport, timeouts: LIMITS, redirects });
		return { reply: exchanges.at(-1)?.reply, error };
	};
	const as = (user: string, password: string) =>
		ask({ ...usual, proxy: { ...proxy, user, password }, key: `as "${user}" ${usual.key}` });
	const { proxy: _, ...without } = { ...usual, key: `past the proxy ${usual.key}` };
	void _;
	const { reply: itself, error } = await ask(without);
	const direct = itself ? { status: itself.status } : { error: error?.message ?? 'it does not answer' };
	if (said.status !== 401 || itself || (!proxy.user && !proxy.password)) return { direct, whoever: false };
	// the API cannot know who asks the proxy: when a stranger gets the same answer, and nobody another one, the proxy gave it
	const stranger = await as('nobody', 'reach-check');
	const unnamed = await as('', '');
	return { direct, whoever: stranger.reply?.status === 401 && unnamed.reply?.status !== 401 };
}
