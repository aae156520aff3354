/** Under it, a program that was compiled from kept code finds what such a program lacks: `import()`. */
const GIVEN = Symbol.for('heron.import');

type Import = (module: string) => Promise<unknown>;

/** Loads a module whose name or address is known only when the program runs. */
export const importAt: Import = (module) => {
	const given = (globalThis as { [GIVEN]?: Import })[GIVEN];
	return given ? given(module) : import(/* @vite-ignore */ module);
};
