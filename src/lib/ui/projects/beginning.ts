/** What one page leaves to the next when a project begins; taken once. */
interface Beginning {
	/** A step that is sent as soon as its ledger is there: `project/collection#scenario/step`. */
	send?: string;
	/** What describes a service, to be brought into a project. */
	definition?: { project: string; files: { path: string; base64: string }[]; address: string };
}

const left: Beginning = {};

export const leaveSend = (place: string): void => void (left.send = place);
export function takeSend(place: string): boolean {
	const is = left.send === place;
	if (is) delete left.send;
	return is;
}

export const leaveDefinition = (definition: NonNullable<Beginning['definition']>): void =>
	void (left.definition = definition);
export function takeDefinition(project: string): Beginning['definition'] {
	const found = left.definition?.project === project ? left.definition : undefined;
	if (found) delete left.definition;
	return found;
}
