import * as v from 'valibot';
import { visibilitySchema } from './visibility-decisions';

/** What is shown of the models: layers and classes, and of each source its option and phase. A view or a stop of a walk may hold it. */

const word = v.pipe(v.string(), v.minLength(1), v.maxLength(200));

export const shownSchema = v.strictObject({
  visibility: visibilitySchema,
  /** By source; one that is not there is as its author has it. */
  variants: v.record(word, v.strictObject({ option: v.nullable(word), phase: v.nullable(word) })),
});
export type Shown = v.InferOutput<typeof shownSchema>;
