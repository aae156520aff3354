import { HeronError } from '../../errors.ts';
import { filesOfBody } from '../../bodies/index.ts';
import { didYouMean } from '../../messages.ts';
import { writeJson, type Json } from '../../model/json.ts';
import { datasetFile } from '../../model/rows.ts';
import type { Body } from '../../model/step.ts';
import type { Answer, StandIn } from '../../documents/stand-in.ts';
import { covers, namesIn } from '../../model/route.ts';
import { hasExpression } from '../../values/index.ts';
import { webhooksFor } from '../webhooks.ts';
import { refer, type Looked, type ProjectRule } from './rule.ts';

/** What stand-ins name, which of their answers are never reached, and which environments they stand in for. */
export const standIns: ProjectRule = {
	name: 'stand-ins',
	look(looked) {
		const { workspace, names, wrong } = looked;
		const known = [...workspace.standIns.keys()];
		for (const environment of workspace.environments.values())
			for (const [connection, by] of Object.entries(environment.standIns)) {
				const file = `environments/${environment.name}.yaml`;
				refer(wrong, file, ['standIns', connection], 'connection', connection, names.connections);
				refer(wrong, file, ['standIns', connection], 'stand-in', by, known);
			}
		for (const one of workspace.standIns.values()) lookAt(one, looked);
	}
};

function lookAt(standIn: StandIn, looked: Looked): void {
	const { workspace, files, wrong, warn } = looked;
	const file = `stand-ins/${standIn.name}.yaml`;
	const { definition } = standIn;
	const path = definition.startsWith('definitions/') ? definition : `definitions/${definition}`;
	if (definition && !files.has(path)) wrong(file, ['definition'], 'file.missing', { file: path });
	const dataset = (name: string, at: (string | number)[]) => {
		if (!name || hasExpression(name)) return;
		const found = datasetFile(name, [...files]);
		if ('known' in found) wrong(file, at, 'dataset.none', { name, nearest: didYouMean(name, found.known) });
	};
	for (const { name, from } of standIn.stores.values())
		if (typeof from === 'string') dataset(from, ['stores', name, 'from']);
	const hooks = standIn.calls.some(({ webhook }) => webhook) ? webhooksFor(workspace, standIn) : undefined;
	const readable = hooks !== undefined && workspace.openapis.all().some((one) => one.file === path && one.definition);
	for (const [index, { webhook, body }] of standIn.calls.entries()) {
		if (webhook && hooks && readable && !hooks.includes(webhook))
			wrong(file, ['calls', index, 'webhook'], 'standIn.webhook', {
				definition,
				name: webhook,
				nearest: didYouMean(webhook, hooks)
			});
		for (const name of absentFiles(body, files)) wrong(file, ['calls', index, 'body'], 'file.missing', { file: name });
	}
	const live = standIn.answers.filter(({ off }) => !off);
	const seen = new Set<number>();
	for (const [index, answer] of live.entries()) {
		const at = ['answers', answer.entry];
		// what belongs to one resource is told once
		const first = !seen.has(answer.entry);
		seen.add(answer.entry);
		if (answer.row && first) dataset(answer.row.from, [...at, 'row', 'from']);
		if (first) lookAtBodies(answer, at, file, files, wrong);
		if (answer.operation) {
			if (!/\.wsdl$/i.test(definition)) {
				wrong(file, [...at, 'ask'], 'standIn.operation', { name: answer.operation });
				continue;
			}
			try {
				workspace.wsdls.find(answer.operation, '', definition);
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
				wrong(file, [...at, 'ask'], error.code, error.values);
			}
			continue;
		}
		const by = live.slice(0, index).find((other) => other.entry !== answer.entry && takesAll(other, answer));
		if (by) warn(file, at, 'lint.standInCovered', { by: by.id });
		const own = namesIn(answer.parts);
		for (const name of pathNames(answer))
			if (first && !own.includes(name))
				wrong(file, at, 'standIn.path', { id: answer.id, name, nearest: didYouMean(name, own) });
	}
}

/** Whether whatever fits the second answer is taken by the first one. */
function takesAll(first: Answer, second: Answer): boolean {
	if (first.operation || second.operation || first.must.some(({ off }) => !off) || first.row) return false;
	return (first.method === '' || first.method === second.method) && covers(first.parts, second.parts);
}

function lookAtBodies(
	{ turns, missing }: Answer,
	at: (string | number)[],
	file: string,
	files: ReadonlySet<string>,
	wrong: Looked['wrong']
): void {
	for (const { body } of [...turns, ...(missing ? [missing] : [])])
		for (const name of absentFiles(body, files)) wrong(file, at, 'file.missing', { file: name });
}

const absentFiles = (body: Body | undefined, files: ReadonlySet<string>): string[] =>
	body ? filesOfBody(body).filter((name) => name && !hasExpression(name) && !files.has(name)) : [];

/** Names that its expressions ask of the path. */
function pathNames(answer: Answer): string[] {
	const { must, turns, missing, set, calls, row, change, forward } = answer;
	const on = must.filter(({ off }) => !off);
	const text = writeJson([
		on,
		turns,
		missing ?? null,
		set,
		calls,
		row ?? null,
		change,
		forward ?? ''
	] as unknown as Json);
	const asked = [...text.matchAll(/\$path\.([A-Za-z_]\w*)/g)].map(([, name]) => name!);
	const checked = on.filter(({ kind }) => kind === 'path').map(({ selector }) => selector ?? '');
	return [...new Set([...asked, ...checked])].filter(Boolean);
}
