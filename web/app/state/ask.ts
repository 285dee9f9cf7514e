import * as v from 'valibot';
import { refusal } from '../../../core/project/answers';

/** What came of a question: an answer, or a fault in words; without words the server could not be reached. */
export type Asked<T> = { answer: T } | { fault: string | undefined };

/** Asks the server, and checks that its answer is what it is to be. */
export async function ask<S extends v.GenericSchema>(schema: S, address: string, init: RequestInit = {}): Promise<Asked<v.InferOutput<S>>> {
  try {
    const response = await fetch(address, init);
    const body: unknown = await response.json();
    if (response.ok) return { answer: v.parse(schema, body) };
    return { fault: v.parse(refusal, body).message };
  } catch {
    return { fault: undefined };
  }
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
