import type { Painter } from './paint';
import { GROUND } from './painters/ground';
import { MASONRY } from './painters/masonry';
import { METAL } from './painters/metal';
import { MINERAL } from './painters/mineral';
import { WOOD } from './painters/wood';

/** One painter for each kind of surface; u and v run over one repeat, whose real size stands in ../library.ts. */
export const PAINTERS: Readonly<Record<string, Painter>> = { ...WOOD, ...MASONRY, ...MINERAL, ...METAL, ...GROUND };
