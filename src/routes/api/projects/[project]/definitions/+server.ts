import { HeronError } from '#core/errors.ts';
import { editYaml } from '#core/model/edit.ts';
import type { DefinitionPlan } from '#core/model/definition-plan.ts';
import { readSource, SOURCE_FILE, type GivenFile } from '#core/soap/index.ts';
import { app } from '$lib/server/app.ts';
import { writtenBy } from '$lib/server/projects.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { DefinitionList, ImportPlan } from '$lib/wire.ts';
import * as yup from 'yup';

/** The definitions of a project with their operations; with `operation` what is to be known for calling one. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { workspace, files } = await projects.open(params.project!);
	const sourceOf = (file: string) => {
		const folder = /^definitions\/[^/]+\//.exec(file)?.[0];
		const source = folder && readSource(files.get(folder + SOURCE_FILE)?.bytes);
		return source ? { source: { ...source, name: folder.split('/')[1]! } } : {};
	};
	const { wsdls, openapis } = workspace;
	const asked = (name: string) => url.searchParams.get(name) ?? '';
	const operation = asked('operation');
	if (operation) return wsdls.model(wsdls.find(operation, asked('version'), asked('definition')));
	const documents = openapis.all().map(({ file, error }): DefinitionList[number] => ({
		file,
		...(error ? { error: error.message } : {}),
		...sourceOf(file),
		problems: [],
		operations: []
	}));
	const services = wsdls.all().map(({ file, definition, error }): DefinitionList[number] => ({
		file,
		...(error ? { error: error.message } : {}),
		...sourceOf(file),
		problems: definition?.problems ?? [],
		operations: (definition?.operations ?? []).map(({ key, name, service, version, style, doc, wants }) => ({
			...{ key, name, service, version, style, doc, wants }
		}))
	}));
	return [...services, ...documents];
});

const order = yup
	.object({
		name: yup
			.string()
			.required()
			.matches(/^[a-z\d][a-z\d-]*$/, 'a name is made of small letters, digits and -'),
		/** Nobody chose the name: the service’s title may give a better one. */
		unnamed: yup.boolean().default(false),
		files: yup
			.array(yup.object({ path: yup.string().required(), base64: yup.string().defined() }).noUnknown())
			.max(500)
			.default([]),
		/** Where it is fetched from, when no files are given. */
		address: yup.string().default(''),
		connection: yup.string().default(''),
		environment: yup.string().default(''),
		/** Hosts other than the address's are asked too, for what is imported from there. */
		others: yup.boolean().default(false),
		/** Keys of the scenarios that are made; left out: those that suggest themselves. */
		choose: yup.array(yup.string().defined()).max(20_000),
		/** Keys of the changes of steps that are made. */
		fix: yup.array(yup.string().defined()).max(20_000),
		/** Without it only what would change is told. */
		apply: yup.boolean().default(false)
	})
	.noUnknown();

/** Reads definitions into the project, or tells what that would change. */
export const POST = endpoint(async ({ params, request }): Promise<ImportPlan> => {
	const { projects, ask } = await app();
	const body = await readBody(request, order);
	const {
		name,
		unnamed = false,
		files: given = [],
		address = '',
		connection = '',
		environment = '',
		others = false,
		choose,
		fix,
		apply
	} = body;
	const project = await projects.open(params.project!);
	let files: GivenFile[];
	let missing: { address: string; detail: string }[] = [];
	if (address) {
		if (!URL.canParse(address)) throw new HeronError('value.address', { address });
		const fetched = await ask('definition', project, environment, { address, name, connection, environment, others });
		files = fetched.files;
		missing = fetched.missing;
	} else files = given.map(({ path, base64 }) => ({ path, bytes: new Uint8Array(Buffer.from(base64, 'base64')) }));
	// what is brought may be hostile: it is looked at where it harms nobody, and whoever goes away stops that
	const plans = await ask(
		'import',
		project,
		environment,
		{ files, name, unnamed, connection, address, environment, ...(choose ? { choose } : {}), ...(fix ? { fix } : {}) },
		{ signal: request.signal }
	);
	const plain = { plans: plans.map(planForPage), missing };
	if (!apply) return plain;
	// several plans may change the same document: each goes on where the one before ended
	const texts = new Map<string, Uint8Array>();
	const before = (path: string): Uint8Array | undefined => texts.get(path) ?? project.files.get(path)?.bytes;
	for (const plan of plans) {
		for (const { path, bytes } of plan.files) texts.set(path, bytes);
		for (const { path, value } of plan.writes)
			texts.set(path, Buffer.from(editYaml(Buffer.from(before(path) ?? []).toString('utf8'), value)));
	}
	const changes = [...texts].flatMap(([path, bytes]) => {
		const file = project.files.get(path);
		return file && Buffer.compare(file.bytes, bytes) === 0 ? [] : [{ path, bytes, base: file?.revision ?? 0 }];
	});
	return { ...plain, written: await writtenBy(projects, project.name, changes) };
});

const planForPage = ({ files, writes: _, ...plan }: DefinitionPlan): ImportPlan['plans'][number] => ({
	...plan,
	files: files.map(({ path }) => path)
});
