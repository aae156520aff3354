import { HeronError } from '#core/errors.ts';
import { editYaml } from '#core/model/edit.ts';
import { readSource, SOURCE_FILE, type DefinitionPlan, type GivenFile } from '#core/soap/index.ts';
import { app } from '$lib/server/app.ts';
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
	const { shelf, catalog } = workspace;
	const asked = (name: string) => url.searchParams.get(name) ?? '';
	const operation = asked('operation');
	if (operation) return shelf.model(shelf.find(operation, asked('version'), asked('definition')));
	const documents = catalog.all().map(({ file, error }): DefinitionList[number] => ({
		file,
		...(error ? { error: error.message } : {}),
		...sourceOf(file),
		problems: [],
		operations: []
	}));
	const wsdls = shelf.all().map(({ file, definition, error }): DefinitionList[number] => ({
		file,
		...(error ? { error: error.message } : {}),
		...sourceOf(file),
		problems: definition?.problems ?? [],
		operations: (definition?.operations ?? []).map(({ key, name, service, version, style, doc, wants }) => ({
			...{ key, name, service, version, style, doc, wants }
		}))
	}));
	return [...wsdls, ...documents];
});

const order = yup
	.object({
		name: yup
			.string()
			.required()
			.matches(/^[a-z\d][a-z\d-]*$/, 'a name is made of small letters, digits and -'),
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
		/** Without it only what would change is told. */
		apply: yup.boolean().default(false)
	})
	.noUnknown();

/** Reads definitions into the project, or tells what that would change. */
export const POST = endpoint(async ({ params, request }): Promise<ImportPlan> => {
	const { projects, ask } = await app();
	const body = await readBody(request, order);
	const { name, files: given = [], address = '', connection = '', environment = '', others = false, apply } = body;
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
		{ files, name, connection, address, environment },
		{ signal: request.signal }
	);
	if (apply) for (const plan of plans) await write(plan);
	return { plans: plans.map(told), missing };

	async function write(plan: DefinitionPlan): Promise<void> {
		const put = async (path: string, bytes: Uint8Array) => {
			const before = project.files.get(path);
			if (before && Buffer.compare(before.bytes, bytes) === 0) return;
			await projects.writeBytes(project.name, path, bytes, before?.revision ?? 0);
		};
		for (const { path, bytes } of plan.files) await put(path, bytes);
		for (const one of [plan.connection, plan.collection, ...plan.bound])
			if (one) {
				const text = project.files.get(one.path)?.bytes.toString('utf8') ?? '';
				await put(one.path, Buffer.from(editYaml(text, one.value)));
			}
	}
});

const told = ({ files, connection, collection, bound, ...plan }: DefinitionPlan): ImportPlan['plans'][number] => ({
	...plan,
	files: files.map(({ path }) => path),
	bound: bound.flatMap(({ steps }) => steps),
	makesConnection: connection !== undefined,
	writesCollection: collection !== undefined
});
