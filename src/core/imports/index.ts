export type { ImportOrder } from './order.ts';
export { camel, connectionFor, environmentsWith, type Made, type Wanted } from './services.ts';
