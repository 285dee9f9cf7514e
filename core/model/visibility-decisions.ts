import * as v from 'valibot';

export const visibilitySchema = v.strictObject({
  /** Shown or hidden by hand, by group key; a group without a decision is shown unless it is hidden at first. */
  decisions: v.record(v.string(), v.boolean()),
  /** Group keys that alone are shown; empty: everything is. */
  isolated: v.array(v.string()),
});
export type Visibility = v.InferOutput<typeof visibilitySchema>;

export const ALL_AS_AT_FIRST: Visibility = { decisions: {}, isolated: [] };
