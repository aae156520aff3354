import { checkCommand, HISTORY_FOLDER, mergeCommand, partCommand, publishTokens, runCommand } from './commands.ts';
import type { PipelineKind } from './kind.ts';

/** A script for any build system that runs a shell. */
export const shell: PipelineKind = {
	key: 'shell',
	label: 'a shell script, for any other',
	file: 'api-tests.sh',
	secrets: 'variables of the environment that the build system sets',
	write(choice) {
		const { secrets, shards, history, install } = choice;
		const wanted = [...secrets, ...publishTokens(choice)];
		const lines = [
			'#!/bin/sh',
			'set -eu',
			...wanted.map((name) => `: "\${${name}:?is not set: the build system’s store holds it}"`),
			install,
			history ? `mkdir -p out ${HISTORY_FOLDER}` : 'mkdir -p out'
		];
		if (shards === 1) lines.push(checkCommand({ ...choice, environment: '' }), runCommand(choice));
		else
			lines.push(
				'mkdir -p parts',
				`# on each of ${shards} agents, with PART from 1 to ${shards}; then, where all parts are, with PART empty`,
				'if [ -n "${PART:-}" ]; then',
				...partCommand(choice, '$PART', String(shards))
					.split('\n')
					.map((line) => `  ${line}`),
				'else',
				...mergeCommand(choice)
					.split('\n')
					.map((line) => `  ${line}`),
				'fi'
			);
		return `${lines.filter(Boolean).join('\n')}\n`;
	}
};
