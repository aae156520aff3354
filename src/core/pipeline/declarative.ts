import { checkCommand, HISTORY_FOLDER, mergeCommand, partCommand, publishTokens, runCommand } from './commands.ts';
import type { PipelineChoice, PipelineKind } from './kind.ts';

/** A text of Groovy in single quotes. */
const quoted = (text: string): string => `'${text.replace(/[\\']/g, '\\$&')}'`;
/** A command of several lines; in triple quotes only the backslash and the quote mean something. */
const sh = (command: string): string => `sh '''${command.replace(/\\/g, '\\\\').replace(/'/g, "\\'")}'''`;
const indent = (text: string, by: number): string =>
	text
		.split('\n')
		.map((line) => (line ? '  '.repeat(by) + line : line))
		.join('\n');

const environmentOf = (choice: PipelineChoice): string => {
	const names = [...choice.secrets, ...publishTokens(choice)];
	return names.length === 0
		? ''
		: `environment {\n${names.map((name) => `  ${name} = credentials(${quoted(name)})`).join('\n')}\n}\n`;
};
const post = `post {
  always {
    junit 'out/junit.xml'
    archiveArtifacts artifacts: 'out/**', allowEmptyArchive: true
  }
}
`;

/** A declarative pipeline with stages in Groovy syntax; credentials are bound by their id. */
export const declarative: PipelineKind = {
	key: 'declarative',
	label: 'a declarative pipeline with stages, in Groovy syntax',
	file: 'Jenkinsfile',
	secrets: 'secret texts among the server’s credentials, with these ids',
	write(choice) {
		const { shards, history, cron, install } = choice;
		// what the gate remembers stays in the workspace from build to build
		const made = history ? `mkdir -p out ${HISTORY_FOLDER}` : 'mkdir -p out';
		const triggers = cron ? `triggers {\n  cron(${quoted(cron)})\n}\n` : '';
		const stage = (name: string, commands: string[]) =>
			`stage(${quoted(name)}) {\n  steps {\n${indent(commands.map(sh).join('\n'), 2)}\n  }\n}\n`;
		if (shards === 1)
			return `pipeline {\n${indent(
				`agent any\n${triggers}${environmentOf(choice)}stages {\n${indent(
					stage('Ready', [install, made]) +
						stage('Check', [checkCommand({ ...choice, environment: '' })]) +
						stage('Run', [runCommand(choice)]),
					1
				)}}\n${post}`,
				1
			)}}\n`;
		const values = Array.from({ length: shards }, (_, n) => quoted(String(n + 1))).join(', ');
		const part = `stage('Parts') {
  matrix {
    agent any
    axes {
      axis {
        name 'PART'
        values ${values}
      }
    }
    stages {
      stage('Part') {
        steps {
${indent([install, 'mkdir -p parts', partCommand(choice, '$PART', String(shards))].map(sh).join('\n'), 5)}
          stash name: "part-\${PART}", includes: 'parts/*.json'
        }
      }
    }
  }
}
`;
		const unstash = Array.from({ length: shards }, (_, n) => `unstash 'part-${n + 1}'`).join('\n');
		const verdict = `stage('Verdict') {
  agent any
  steps {
${indent([unstash, ...[install, made, mergeCommand(choice)].map(sh)].join('\n'), 2)}
  }
${indent(post, 1)}}
`;
		return `pipeline {\n${indent(`agent none\n${triggers}${environmentOf(choice)}stages {\n${indent(part + verdict, 1)}}\n`, 1)}}\n`;
	}
};
