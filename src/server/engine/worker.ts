import { HeronError, textOf } from '#core/errors.ts';
import { createRedactor } from '#core/redact/index.ts';
import { type Handler, keeper, post, takeProject } from './jobs/context.ts';
import { handlers, SENDING } from './jobs/index.ts';
import { renewals } from './jobs/stand-in.ts';
import { windows } from './jobs/window.ts';
import type { JobName, ToWorker, WireError } from './protocol.ts';
import { setMaxListeners } from 'node:events';

// A process of its own that carries out the jobs of one project.
const running = new Map<string, AbortController>();

// who cannot hear us any more needs nothing more
process.on('disconnect', () => process.exit(0));
// Ctrl+C in a terminal goes to all: the server says when it is over
process.on('SIGINT', () => {}).on('SIGTERM', () => {});

const wireError = (error: unknown): WireError =>
	error instanceof HeronError
		? { code: error.code, message: error.message, values: error.values, problems: error.problems }
		: { code: 'server.failed', message: textOf(error), values: { detail: textOf(error) }, problems: [] };

const pong = (): void => post({ type: 'pong', memory: process.memoryUsage().rss });
// from here on silence is its own
pong();
process.on('message', (message: ToWorker) => {
	if (message.type === 'ping') return pong();
	if (message.type === 'project') return takeProject(message);
	if (message.type === 'cancel') return running.get(message.id)?.abort(new HeronError('send.cancelled'));
	if (message.type === 'took') return windows.get(message.id)?.took(message.messages);
	if (message.type === 'renew') return void renewals.get(message.id)?.(message.environment);
	if (message.type === 'token') return keeper.take(message.credential, message.environment, message.token);
	if (message.type === 'forget') return keeper.take(message.credential, message.environment, undefined);
	// where nothing is sent, whoever looks could read a secret piece by piece
	const redactor = createRedactor(message.sealed.secrets, { strict: !SENDING.has(message.type) });
	const stop = new AbortController();
	// every request under way listens
	setMaxListeners(0, stop.signal);
	running.set(message.id, stop);
	const handle = handlers[message.type] as Handler<JobName>;
	Promise.resolve()
		.then(() => handle(message, redactor, stop))
		.then((answer) => post({ type: 'done', id: message.id, answer }))
		.catch((thrown: unknown) => {
			const error = wireError(thrown);
			post({ type: 'failed', id: message.id, error: { ...redactor.record(error), code: error.code } });
		})
		.finally(() => running.delete(message.id));
});
