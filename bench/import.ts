// How long a project folder takes to be read and checked whole, in a process that just began: bundled by bench/index.mjs.
import { readFolder } from '../src/server/engine/folder.ts';

const start = performance.now();
const { workspace } = readFolder(process.argv[2]!);
const ms = performance.now() - start;
if (workspace.problems.length > 0) throw new Error(workspace.problems[0]!.message);
console.log(JSON.stringify({ ms, collections: workspace.collections.size, environments: workspace.environments.size }));
