/** What a pipeline is to do. */
export interface PipelineChoice {
	/** The suite by name. */
	suite: string;
	title: string;
	environment: string;
	/** Where the project is in the repository; `.` for its root. */
	folder: string;
	/** The server that the project is taken from, in place of a folder; empty for none. */
	server: string;
	/** Of the server's project: the revision by name or number; empty for what the suite says, or the newest. */
	revision: string;
	/** How the command comes to the agent: a line for a shell. */
	install: string;
	/** On how many agents; 1 for no parts. */
	shards: number;
	/** Reports beside JUnit, by key. */
	reports: readonly ReportName[];
	/** The server to which results go; empty for none. */
	publish: string;
	/** The project on a server. */
	as: string;
	/** The gate remembers earlier runs, and no server does. */
	history: boolean;
	/** Variables that hold secrets, such as HERON_SECRET_CLERK_PASSWORD. */
	secrets: readonly string[];
	/** When it runs by the clock, as cron has it (POSIX crontab); empty for not. */
	cron: string;
}

/** The files of reports that a pipeline keeps, by kind. */
export const REPORT_FILES = {
	json: 'result.json',
	html: 'report.html',
	markdown: 'summary.md',
	tap: 'result.tap',
	har: 'exchanges.har'
} as const;
/** A kind of report that a pipeline keeps. */
export type ReportName = keyof typeof REPORT_FILES;

/** A build system, by the form in which it takes a pipeline. */
export interface PipelineKind {
	key: string;
	/** What it is, in words. */
	label: string;
	/** Where the file belongs. */
	file: string;
	/** What its store of secrets is called, and how a secret comes from there. */
	secrets: string;
	write(choice: PipelineChoice): string;
}
