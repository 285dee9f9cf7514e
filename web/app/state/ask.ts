import * as v from 'valibot';
import { refusal } from '../../../core/project/answers';

/** What came of a question: an answer, or a fault in words; without words the server could not be reached. */
export type Asked<T> = { answer: T } | { fault: string | undefined };

/** Asks the server, and checks that its answer is what it is to be. */
export async function ask<S extends v.GenericSchema>(schema: S, address: string, init: RequestInit = {}): Promise<Asked<v.InferOutput<S>>> {
  try {
    const response = await fetch(address, init);
    return response.ok ? { answer: v.parse(schema, await response.json()) } : { fault: await faultOf(response) };
  } catch {
    return { fault: undefined };
  }
}

/** Why the server refused, in its words; without an answer, or with another one, undefined. */
export async function faultOf(response: Response | undefined): Promise<string | undefined> {
  const said = v.safeParse(refusal, await response?.json().catch(() => undefined));
  return said.success ? said.output.message : undefined;
}

/** A POST of bytes. */
export const bytes = (body?: BodyInit): RequestInit => ({
  method: 'POST',
  headers: { 'Content-Type': 'application/octet-stream' },
  ...(body && { body }),
});

/** A POST of JSON. */
export const json = (body: unknown, method = 'POST'): RequestInit => ({
  method,
  headers: { 'Content-Type': 'application/json' },
  body: JSON.stringify(body),
});
