import { startStandins } from './index.ts';

const first = Number(process.env.HERON_STANDINS_PORT ?? 4681);
const running = await startStandins(first);
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void running.close());
for (const { name, address } of running.list) process.stdout.write(`${name}  ${address}\n`);
// whoever reads this may rely on all of them
process.stdout.write(`ready  ${JSON.stringify(running.list)}\n`);
