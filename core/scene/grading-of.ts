import { parseCube, type ColourCube } from '../image/colour-cube';
import { PLAIN_GRADING, type Grading } from '../image/grading';
import { entry, type Entries } from '../project/project';

/** How a project's pictures are developed beyond exposure and white; `look`: the table of colours as text. */
export interface ChosenGrading {
  grading: Grading;
  look?: string;
}

export function gradingOf(entries: Entries): ChosenGrading {
  const grading = entry(entries, 'grading') ?? PLAIN_GRADING;
  const look = grading.look && entry(entries, `look/${grading.look.id}`);
  return { grading, ...(look && { look: look.text }) };
}

/** What `develop` takes of it. */
export function gradingWithCube({ grading, look }: ChosenGrading): { grading: Grading; cube?: ColourCube } {
  const cube = look === undefined ? undefined : parseCube(look);
  return { grading, ...(typeof cube === 'object' && { cube }) };
}
