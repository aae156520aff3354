import { show } from '#core/checks/index.ts';
import type { Json } from '#core/model/json.ts';
import { api, messageOf } from '../common/api.ts';

export interface Tried {
	value?: Json;
	trouble?: string;
}

/** What an expression gives; a server that cannot say is a trouble too. */
export async function tryExpression(
	project: string,
	order: { text: string; environment: string; scenario?: string; row?: number }
): Promise<Tried> {
	try {
		return await api.post<Tried>(`/projects/${project}/try`, order);
	} catch (error) {
		return { trouble: messageOf(error) };
	}
}

/** The same as the end of a sentence. */
export const resultText = ({ value, trouble }: Tried): string =>
	trouble === undefined ? `= ${show(value, 200)}` : `: ${trouble}`;
