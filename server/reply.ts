import type { Response } from 'express';
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
