import {
	DataTypes,
	type InferAttributes,
	type InferCreationAttributes,
	Model,
	type CreationOptional,
	type Sequelize
} from 'sequelize';

export class ProjectRow extends Model<InferAttributes<ProjectRow>, InferCreationAttributes<ProjectRow>> {
	declare name: string;
	declare createdAt: CreationOptional<Date>;
	/** Milliseconds since 1970; null while it is there. */
	declare removedAt: CreationOptional<number | null>;
	/** The folder on this machine that it is; empty for none. */
	declare folder: CreationOptional<string>;
}

export class FileRow extends Model<InferAttributes<FileRow>, InferCreationAttributes<FileRow>> {
	declare project: string;
	declare path: string;
	declare bytes: Buffer;
	declare revision: number;
	declare updatedAt: CreationOptional<Date>;
}

/** Every earlier text of a document, so that nothing that was typed is lost. */
export class RevisionRow extends Model<InferAttributes<RevisionRow>, InferCreationAttributes<RevisionRow>> {
	declare project: string;
	declare path: string;
	declare revision: number;
	declare bytes: Buffer;
	declare createdAt: CreationOptional<Date>;
	/** What was written together has one number, which grows within a project. */
	declare change: number;
	/** 1: the file was removed. */
	declare gone: CreationOptional<number>;
}

export class RunRow extends Model<InferAttributes<RunRow>, InferCreationAttributes<RunRow>> {
	declare id: string;
	declare project: string;
	declare number: number;
	/** `run`, or `send` for steps that were sent by hand. */
	declare kind: string;
	declare status: string;
	/** JSON of RunInfo. */
	declare info: string;
	/** JSON of the scenarios with their outcomes. */
	declare scenarios: string;
	declare total: number;
	/** JSON of Summary. */
	declare summary: string;
	declare ms: number;
	declare stopped: string;
	declare startedAt: number;
	// what runs are looked for, sorted and counted by; the same as in `info` and `summary`
	declare suite: CreationOptional<string>;
	declare environment: CreationOptional<string>;
	declare branch: CreationOptional<string>;
	declare passed: CreationOptional<number>;
	declare failed: CreationOptional<number>;
	declare errors: CreationOptional<number>;
	declare skipped: CreationOptional<number>;
	declare unsteady: CreationOptional<number>;
	declare quarantined: CreationOptional<number>;
	/** 1: it is not let go for its age. */
	declare kept: CreationOptional<number>;
	/** Whether its gate let the pipeline go on: 1 or 0; null where none judged it. */
	declare held: CreationOptional<number | null>;
	/** JSON of the verdict; empty for none. */
	declare gate: CreationOptional<string>;
	/** JSON of the RunTally, and of how each step ended; empty where they are not made yet. */
	declare tally: CreationOptional<string>;
	declare past: CreationOptional<string>;
}

/** A result; beside its data what it is looked for, sorted and counted by. */
export class StepRow extends Model<InferAttributes<StepRow>, InferCreationAttributes<StepRow>> {
	declare id: CreationOptional<number>;
	declare run: string;
	declare seq: number;
	declare project: string;
	declare scenario: string;
	declare step: string;
	declare outcome: string;
	/** Of a dataset, from 1. */
	declare rowNumber: number | null;
	/** Of the last reply. */
	declare status: number | null;
	/** Of the error; empty for none. */
	declare code: string;
	declare ms: number;
	/** Milliseconds since 1970. */
	declare startedAt: number;
	/** What else it counts as: superseded, unsteady, quarantined; empty for its outcome. */
	declare mark: CreationOptional<string>;
	/** What it has in common with other findings; empty for what is no finding. */
	declare cause: CreationOptional<string>;
	/** JSON of the step's result; bodies by their hash. */
	declare data: string;
}

/** Which result of a step is its newest in an environment; of several in a run one that did not pass. */
class NewestRow extends Model<InferAttributes<NewestRow>, InferCreationAttributes<NewestRow>> {
	declare project: string;
	declare environment: string;
	declare scenario: string;
	declare step: string;
	declare run: string;
	declare seq: number;
	/** When the run began. */
	declare runAt: number;
	/** 1 when it did not pass. */
	declare bad: number;
}

/** A body that a run refers to: one that no run does is let go. */
export class UseRow extends Model<InferAttributes<UseRow>, InferCreationAttributes<UseRow>> {
	declare run: string;
	declare hash: string;
}

export class BodyRow extends Model<InferAttributes<BodyRow>, InferCreationAttributes<BodyRow>> {
	declare hash: string;
	declare size: number;
	/** `raw` or `br`. */
	declare coding: string;
	declare bytes: Buffer;
}

/** A value that only the vault's key opens. */
export class SealedRow extends Model<InferAttributes<SealedRow>, InferCreationAttributes<SealedRow>> {
	declare project: string;
	/** `secret`, `token` or `kept`. */
	declare kind: string;
	/** Empty for all environments. */
	declare environment: string;
	declare name: string;
	declare keyId: string;
	declare bytes: Buffer;
	declare updatedAt: CreationOptional<Date>;
}

/** That a secret was shown to somebody. */
export class RevealRow extends Model<InferAttributes<RevealRow>, InferCreationAttributes<RevealRow>> {
	declare id: CreationOptional<number>;
	declare project: string;
	declare environment: string;
	declare name: string;
	declare at: number;
}

export class ReachRow extends Model<InferAttributes<ReachRow>, InferCreationAttributes<ReachRow>> {
	declare project: string;
	declare target: string;
	declare environment: string;
	declare outcome: string;
	/** JSON of the report without its exchanges. */
	declare report: string;
	declare at: number;
}

/** What makes a phrase into a key of this database alone. */
export class SaltRow extends Model<InferAttributes<SaltRow>, InferCreationAttributes<SaltRow>> {
	declare name: string;
	declare bytes: Buffer;
}

// made anew for each column: the library writes into them
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const real = () => ({ type: DataTypes.DOUBLE, allowNull: false });
const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
const blob = () => ({ type: DataTypes.BLOB, allowNull: false });
const key = () => ({ ...text(), primaryKey: true });
const stamp = () => ({ type: DataTypes.DATE, allowNull: false });

const columns = {
	projects: { name: key(), createdAt: stamp(), removedAt: DataTypes.DOUBLE, folder: { ...text(), defaultValue: '' } },
	files: { project: key(), path: key(), bytes: blob(), revision: whole(), updatedAt: stamp() },
	revisions: {
		project: key(),
		path: key(),
		revision: { ...whole(), primaryKey: true },
		bytes: blob(),
		createdAt: stamp(),
		change: whole(),
		gone: { ...whole(), defaultValue: 0 }
	},
	marks: { project: key(), name: key(), change: whole(), createdAt: real() },
	runs: {
		id: key(),
		project: text(),
		number: whole(),
		kind: text(),
		status: text(),
		info: text(),
		scenarios: text(),
		total: whole(),
		summary: text(),
		ms: { type: DataTypes.DOUBLE, allowNull: false },
		stopped: text(),
		startedAt: { type: DataTypes.DOUBLE, allowNull: false },
		suite: { ...text(), defaultValue: '' },
		environment: { ...text(), defaultValue: '' },
		branch: { ...text(), defaultValue: '' },
		passed: { ...whole(), defaultValue: 0 },
		failed: { ...whole(), defaultValue: 0 },
		errors: { ...whole(), defaultValue: 0 },
		skipped: { ...whole(), defaultValue: 0 },
		unsteady: { ...whole(), defaultValue: 0 },
		quarantined: { ...whole(), defaultValue: 0 },
		held: DataTypes.INTEGER,
		kept: { ...whole(), defaultValue: 0 },
		gate: { ...text(), defaultValue: '' },
		tally: { ...text(), defaultValue: '' },
		past: { ...text(), defaultValue: '' }
	},
	steps: {
		id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
		run: text(),
		seq: whole(),
		project: text(),
		scenario: text(),
		step: text(),
		outcome: text(),
		rowNumber: DataTypes.INTEGER,
		status: DataTypes.INTEGER,
		code: text(),
		ms: real(),
		startedAt: real(),
		mark: { ...text(), defaultValue: '' },
		cause: { ...text(), defaultValue: '' },
		data: text()
	},
	newest: {
		project: key(),
		environment: key(),
		scenario: key(),
		step: key(),
		run: text(),
		seq: whole(),
		runAt: real(),
		bad: whole()
	},
	uses: { run: key(), hash: key() },
	sealed: {
		project: key(),
		kind: key(),
		environment: key(),
		name: key(),
		keyId: text(),
		bytes: blob(),
		updatedAt: stamp()
	},
	reveals: {
		id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
		project: text(),
		environment: text(),
		name: text(),
		at: { type: DataTypes.DOUBLE, allowNull: false }
	},
	reaches: {
		project: key(),
		target: key(),
		environment: key(),
		outcome: text(),
		report: text(),
		at: { type: DataTypes.DOUBLE, allowNull: false }
	},
	salts: { name: key(), bytes: blob() },
	bodies: { hash: key(), size: whole(), coding: text(), bytes: blob() }
};

/** Binds the tables to a database. */
export function defineTables(sequelize: Sequelize): void {
	ProjectRow.init(columns.projects, { sequelize, tableName: 'projects', updatedAt: false });
	FileRow.init(columns.files, { sequelize, tableName: 'files', createdAt: false });
	RevisionRow.init(columns.revisions, { sequelize, tableName: 'revisions', updatedAt: false });
	RunRow.init(columns.runs, { sequelize, tableName: 'runs', timestamps: false });
	StepRow.init(columns.steps, { sequelize, tableName: 'steps', timestamps: false });
	NewestRow.init(columns.newest, { sequelize, tableName: 'newest', timestamps: false });
	UseRow.init(columns.uses, { sequelize, tableName: 'uses', timestamps: false });
	SealedRow.init(columns.sealed, { sequelize, tableName: 'sealed', createdAt: false });
	RevealRow.init(columns.reveals, { sequelize, tableName: 'reveals', timestamps: false });
	ReachRow.init(columns.reaches, { sequelize, tableName: 'reaches', timestamps: false });
	SaltRow.init(columns.salts, { sequelize, tableName: 'salts', timestamps: false });
	BodyRow.init(columns.bodies, { sequelize, tableName: 'bodies', timestamps: false });
}
