// What `heron` starts: the program by its kept code, or else by its modules.
import { readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import { codeFile, compileProgram, programFile, startProgram } from './program.mjs';

const dir = dirname(fileURLToPath(import.meta.url));

function started() {
	let script;
	try {
		script = compileProgram(programFile(dir, __PROGRAM__), readFileSync(codeFile(dir, __PROGRAM__)));
	} catch {
		// another version of Node than the one that built it, or a folder of which a part was copied
		return false;
	}
	if (script.cachedDataRejected) return false;
	startProgram(script, import.meta.url);
	return true;
}

// it stands beside the built entry
const modules = './main.js';
if (!started()) await import(modules);
