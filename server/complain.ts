import type { Response } from 'express';
import type * as v from 'valibot';
import { firstComplaint } from '../core/model/protocol';

/** Refuses what does not fit a schema, by the first field that is wrong. */
export function complain(response: Response, issues: readonly v.BaseIssue<unknown>[]): void {
  const { field, message } = firstComplaint(issues);
  response.status(400).json({ message: `${field}: ${message}` });
}
