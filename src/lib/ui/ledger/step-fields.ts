import type { Component } from 'svelte';
import type { Step, StepName } from '#core/steps/index.ts';
import CallFields from './CallFields.svelte';
import type { Ledger } from './ledger.svelte.ts';
import ReceiveFields from './ReceiveFields.svelte';
import ScriptFields from './ScriptFields.svelte';
import SendFields from './SendFields.svelte';
import SetFields from './SetFields.svelte';
import StepFields from './StepFields.svelte';
import type { StepView } from './view.ts';

type Fields = Component<{ ledger: Ledger; view: StepView }>;

const own: Partial<Record<StepName, Fields>> = {
	send: SendFields,
	set: SetFields,
	call: CallFields,
	receive: ReceiveFields,
	script: ScriptFields
};

/** The form of a step: its kind's own, or the one that every kind has. */
export const fieldsOf = ({ kind }: Step): Fields => own[kind] ?? StepFields;
