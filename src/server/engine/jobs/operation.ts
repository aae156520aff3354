import { nameOf, viewOperation } from '#core/openapi/index.ts';
import { viewSoapOperation } from '#core/soap/index.ts';
import { type Handler, workspaceNow } from './context.ts';

/** What a definition says of an operation. */
export const operation: Handler<'operation'> = ({ order: { file, operation: name } }) => {
	const { openapis, wsdls } = workspaceNow();
	if (wsdls.files.includes(file)) return Promise.resolve(viewSoapOperation(wsdls, file, name) ?? null);
	const { definition } = openapis.all().find((one) => one.file === file) ?? { definition: undefined };
	const found = definition?.operations.find((one) => nameOf(one) === name);
	return Promise.resolve(found ? viewOperation(found) : null);
};
