import type { Json } from '../model/json.ts';
import { file } from './file.ts';
import { form } from './form.ts';
import { json } from './json.ts';
import type { BodyKind } from './kind.ts';
import { multipart } from './multipart.ts';
import { soapAnswer } from './soap-answer.ts';
import { soap } from './soap.ts';
import { text, xml } from './text.ts';

export type { BodyKind, BodyTools, BuiltBody } from './kind.ts';

const kinds = [json, xml, text, form, multipart, file, soap] as const;
/** The key of a kind of body. */
export type BodyName = (typeof kinds)[number]['key'];

/** All kinds of body, in the order in which they are offered. */
export const bodyKinds: readonly BodyKind[] = kinds;
/** Bodies that answer a call. */
export const answerBodies: readonly BodyKind[] = [json, xml, text, form, multipart, file, soapAnswer];
const byKey = new Map<string, BodyKind>(bodyKinds.map((kind) => [kind.key, kind]));
/** A kind of body by its key; undefined for one that nobody knows. */
export const bodyKind = (key: string): BodyKind | undefined => byKey.get(key);
/** Files of the project that a body needs, as they are written. */
export const filesOfBody = ({ kind, value }: { kind: string; value: Json }): string[] =>
	answerBodies.find(({ key }) => key === kind)?.files?.(value) ?? bodyKind(kind)?.files?.(value) ?? [];
export { inHeader } from './soap.ts';
