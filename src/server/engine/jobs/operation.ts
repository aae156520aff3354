import { nameOf, viewOperation } from '#core/openapi/index.ts';
import { type Handler, workspaceNow } from './context.ts';

/** What a document says of an operation. */
export const operation: Handler<'operation'> = ({ order: { file, operation: name } }) => {
	const { definition } = workspaceNow()
		.catalog.all()
		.find((one) => one.file === file) ?? { definition: undefined };
	const found = definition?.operations.find((one) => nameOf(one) === name);
	return Promise.resolve(found ? viewOperation(found) : null);
};
