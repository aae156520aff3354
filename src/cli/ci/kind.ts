/** What a build system tells of the build that a command runs in; what it does not tell is left out. */
export interface BuildFacts {
	job?: string | undefined;
	build?: string | undefined;
	commit?: string | undefined;
	branch?: string | undefined;
	/** The page of the build. */
	link?: string | undefined;
}

export type Environment = Readonly<Record<string, string | undefined>>;

/** One build system, known by the variables that it sets. */
export interface BuildSystem {
	/** By which variables it is known, in words for the manual. */
	variables: string;
	/** Undefined where the command does not run in it. */
	read(env: Environment): BuildFacts | undefined;
}
