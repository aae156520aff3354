import type { SchemaByItself, SchemaFault } from '../checks/index.ts';
import type { Dataset, DataSpec } from '../datasets/index.ts';
import type { HeaderList } from '../model/reply.ts';
import type { XmlPort } from '../model/xml.ts';
import type { FunctionPorts } from '../values/index.ts';
import type { Asked } from './asked.ts';

/** A call that goes out: of what is passed on, and of what is called back. */
export interface Outgoing {
	method: string;
	url: string;
	headers: HeaderList;
	body: Uint8Array;
}

/** All that a stand-in uses of the world outside. */
export interface StandInPorts extends FunctionPorts {
	xml: XmlPort;
	/** @throws HeronError schema.wrong, file.missing */
	validateJson(value: unknown, schema: string | SchemaByItself): Promise<SchemaFault[]>;
	/** @throws HeronError dataset.* */
	dataset(spec: DataSpec): Promise<Dataset>;
	/** Sends on what was asked. @throws HeronError send.* */
	send(outgoing: Outgoing): Promise<Pick<Asked, 'headers' | 'body'> & { status: number }>;
}
