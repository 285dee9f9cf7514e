import type { Request, Response } from 'express';
import type * as v from 'valibot';
import type { refusal } from '../core/project/answers';

/** Answers with what a schema of core/project/answers.ts says. */
export function reply<S extends v.GenericSchema>(response: Response, _schema: S, value: v.InferOutput<S>, status = 200): void {
  response.status(status).json(value);
}

/** Answers with a sentence. */
export function refuse(response: Response, status: number, message: v.InferOutput<typeof refusal>['message']): void {
  response.status(status).json({ message });
}

/** A file that was sent: its name, and its bytes. */
export function uploaded(request: Request, unnamed: string): { name: string; body: Uint8Array } {
  const { name } = request.query;
  const body: unknown = request.body;
  return { name: typeof name === 'string' ? name.slice(0, 200) : unnamed, body: Buffer.isBuffer(body) ? body : new Uint8Array() };
}
