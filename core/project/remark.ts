import * as v from 'valibot';
import { cameraSchema } from '../model/schema';

const text = (most: number) => v.pipe(v.string(), v.maxLength(most));
const metres = v.pipe(v.number(), v.finite(), v.minValue(-1e6), v.maxValue(1e6));

export const REMARK_STATES = ['open', 'in work', 'done'] as const;

/** What somebody has to say of a place or a view. */
export const remarkSchema = v.strictObject({
  id: v.pipe(v.string(), v.regex(/^[\w-]{8,64}$/)),
  text: v.pipe(text(4000), v.minLength(1, 'says nothing')),
  author: text(200),
  at: v.pipe(v.string(), v.isoTimestamp()),
  status: v.picklist(REMARK_STATES),
  /** Project's metres. */
  place: v.optional(v.tuple([metres, metres, metres])),
  camera: cameraSchema,
  /** Under which it was seen. */
  look: v.optional(text(200)),
  /** Made along a link to a viewer: its id; without: by the office. */
  link: v.optional(text(64)),
  /** What lies at the place: source and element. */
  element: v.optional(v.strictObject({ source: text(200), id: text(200) })),
});
export type Remark = v.InferOutput<typeof remarkSchema>;
