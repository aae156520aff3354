// The command as one script with V8's code of it, which spares compiling a megabyte at each start. The code fits one version
// of Node on one kind of machine; where there is none that fits, the same command is started from its modules.
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import vm from 'node:vm';

/** @param {string} dir @param {string} hash of the program */
export const programFile = (dir, hash) => join(dir, `program-${hash}.js`);
/** @param {string} dir @param {string} hash of the program */
export const codeFile = (dir, hash) => join(dir, `program-${hash}-${process.version}-${process.arch}.code`);

/**
 * What stands around the program in its file. A script that was compiled from kept code knows no `import()`, no `require` and
 * no address of its own.
 */
export const AROUND = { before: '(function (require, __programUrl) {', after: '\n})' };

/** @param {string} file @param {Buffer} [code] as it was kept */
export const compileProgram = (file, code) =>
	new vm.Script(readFileSync(file, 'latin1'), { filename: file, ...(code ? { cachedData: code } : {}) });

/** @param {vm.Script} script @param {string} url of the module that it acts as */
export function startProgram(script, url) {
	Object.assign(globalThis, { [Symbol.for('heron.import')]: (/** @type {string} */ module) => import(module) });
	script.runInThisContext()(createRequire(url), url);
}
