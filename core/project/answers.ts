import * as v from 'valibot';
import { thingKindSchema } from '../setting/thing-kind';
import { finishSchema } from '../finish/finish';
import { changeSchema } from '../model/schema';

/** What the server answers to pages, as both sides know it. Where it refuses, it answers with a `refusal`. */

const count = v.pipe(v.number(), v.integer(), v.minValue(0));
const pairs = v.array(v.strictTuple([v.string(), v.string()]));
const counts = v.object({ added: count, changed: count, removed: count });

export const refusal = v.object({ message: v.string() });

export const printOrdered = v.object({ id: v.string() });
export const deliveryOrdered = v.object({ id: v.string(), prints: v.array(v.string()) });

/** Files for clients, the last one first, with their links; `token` is told once, when a link is made. */
const viewerLink = v.object({
  id: v.string(),
  expiresAt: v.string(),
  hasPassword: v.boolean(),
  mayComment: v.boolean(),
  showsOthers: v.boolean(),
  revoked: v.boolean(),
  opened: count,
  log: v.array(v.object({ at: v.string(), address: v.string(), what: v.string() })),
});
export const viewerList = v.object({
  viewers: v.array(
    v.object({
      id: v.string(),
      name: v.string(),
      createdAt: v.string(),
      state: v.picklist(['waiting', 'baking', 'finished', 'failed']),
      done: v.number(),
      fault: v.nullable(v.string()),
      report: v.nullable(v.object({ bytes: count, modelBytes: count, corners: count, seconds: v.number(), leftOut: v.array(v.string()) })),
      links: v.array(viewerLink),
    }),
  ),
});
export const viewerOrdered = v.object({ id: v.string() });
/** How large a viewer becomes, about, before it is made. */
export const viewerWeighed = v.object({ bytes: count, corners: count, leftOut: v.array(v.string()) });
export const viewerLinked = v.object({ id: v.string(), token: v.string() });

/** A file has become a source, or changed one so many things. */
export const fileTaken = v.object({ source: v.string(), changed: count });

const matches = v.object({ kept: count, byName: pairs, gone: v.array(v.string()), added: count });
/** What it would mean if a file took a source's place. */
export const replacementOffer = v.object({
  number: count,
  fileName: v.string(),
  matches: v.object({ elements: matches, materials: matches }),
});

/** Revisions of a source, the last one first; without counts in projects of before these were kept. */
export const revisionList = v.array(v.object({ revision: count, at: v.string(), counts: v.nullable(counts), held: v.boolean() }));
export const earlierModel = changeSchema;

/** What a file says of an element beside its shape. */
export const elementProperties = v.object({
  groups: v.array(v.object({ name: v.string(), rows: v.array(v.strictTuple([v.string(), v.string()])) })),
  classifications: v.array(v.object({ system: v.string(), code: v.string(), name: v.string() })),
});

/** Finishes that have been read from a package or a library. */
export const finishesRead = v.object({ finishes: v.array(finishSchema) });
export const mapSetKept = v.object({ maps: v.string() });
/** An all-round picture of a sky that was kept. */
export const skyPictureKept = v.object({ hash: v.string() });
export const ownThingRead = v.object({ kind: thingKindSchema, said: v.string() });
export const ownThings = v.array(thingKindSchema);
export const meshKept = v.object({ hash: v.string() });
/** A map set put together from its pictures. */
export const mapSetRead = v.object({
  maps: v.string(),
  widthM: v.number(),
  heightM: v.number(),
  metalness: v.number(),
  remark: v.string(),
});

/** How many previews of the finishes that ship have been made. */
export const previewProgress = v.object({ made: count, of: count });

export const libraryList = v.object({
  items: v.array(v.object({ id: v.string(), name: v.string(), family: finishSchema.entries.family, tags: v.array(v.string()) })),
});
export const libraryKept = v.object({ kept: count });
