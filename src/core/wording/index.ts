import { command } from './command.ts';
import { files } from './files.ts';
import { sending } from './sending.ts';
import { server } from './server.ts';
import { services } from './services.ts';
import { values } from './values.ts';
import type { Wordings } from './wording.ts';

/** All that is said of what is wrong, by code; the areas in the order of the manual. */
export const areas = { files, values, sending, services, command, server };

/** All codes with their sentences. */
export const wordings = { ...files, ...values, ...sending, ...services, ...command, ...server } satisfies Wordings;
