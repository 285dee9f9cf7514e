import { Injectable } from '@angular/core';
import { BehaviorSubject, Subject } from 'rxjs';
import type { Plane } from '../../../core/geometry/mesh';
import type { FaceEdge } from '../../../core/geometry/face-edge';
import type { Histogram } from '../../../core/image/histogram';
import type { Development } from '../../../core/image/tone';
import { SCREEN_WHITE, type WhiteBalance, type WhiteSetting } from '../../../core/image/white-balance';
import type { Camera } from '../../../core/model/schema';
import type { KeptWalk, Walk } from '../../../core/camera/walk';
import type { Survey } from '../../../core/render/survey';
import type { WalkFault } from '../../../core/render/walk-check';
import type { Exposures } from '../../../core/render/meter';
import type { FromRefiner, LevelLayerJob, ProofJob } from '../picture/refine-messages';
import type { NavigationMode } from '../picture/navigation';
import type { DetailChoice, DetailReport } from '../picture/working-detail';

/** A surface that the pointer rests on, in words. */
export interface Pointed {
  source: string;
  element: string;
  material: string;
  elementName: string;
  materialName: string;
  finishName: string;
  /** Where it was met, or the corner of the surface next to it, in the project's metres. */
  point: readonly [number, number, number];
  /** The edge of the flat face next to it, in the face's coordinates. */
  edge?: () => FaceEdge | undefined;
  /** The plane of the face that was met, in the element's own place. */
  plane?: Plane | undefined;
  /** Of that face in the project, on its outer side. */
  normal?: readonly [number, number, number] | undefined;
  /** Of the pointer, in the page. */
  x: number;
  y: number;
}

/** A place pointed out over the picture. */
export interface Mark {
  id: string;
  place: readonly [number, number, number];
  label: string;
  current: boolean;
}

/** Why an element stands out. */
export type MarkKind = 'pointed' | 'added' | 'removed' | 'changed';

export interface PictureStatus {
  /** `waiting` for a model, `draft` of the working picture, `refining`, `finished`, or a fault in a sentence. */
  state: 'waiting' | 'draft' | 'refining' | 'finished' | 'fault';
  /** 0 to 1 while refining. */
  progress: number;
  fault: string | null;
}

/** Lines over the picture that help to frame it; they are not delivered. */
export const GRIDS = ['none', 'thirds', 'golden section', 'middle', 'diagonals'] as const;
export type Grid = (typeof GRIDS)[number];

export const START_CAMERA: Camera = { position: [-7.5, -13.5, 1.65], target: [10, 3, 2.6], focalMm: 26 };

/** What the picture and the rest of the sheet tell each other. */
@Injectable({ providedIn: 'root' })
export class PictureState {
  readonly camera$ = new BehaviorSubject<Camera>(START_CAMERA);
  /** A working picture has just been drawn on a canvas; it is to be read at once. */
  readonly drawn$ = new Subject<HTMLCanvasElement>();
  /** Name of the saved view that the camera stands in, if it has not been moved since. */
  readonly viewName$ = new BehaviorSubject<string | undefined>(undefined);
  readonly mode$ = new BehaviorSubject<NavigationMode>('orbit');
  /** Pixels of the picture that is delivered; what is seen has its shape. */
  readonly frame$ = new BehaviorSubject<{ width: number; height: number }>({ width: 1920, height: 1080 });
  /** Sections that are shown, by their ids. */
  readonly sections$ = new BehaviorSubject<readonly string[]>([]);
  readonly grid$ = new BehaviorSubject<Grid>('none');
  /** A picture has been drawn, moving or at rest. */
  readonly frameShown$ = new Subject<void>();
  readonly status$ = new BehaviorSubject<PictureStatus>({ state: 'waiting', progress: 0, fault: null });
  readonly ev100$ = new BehaviorSubject<number>(13);
  /** Of the picture that is shown, once there is one. */
  readonly histogram$ = new BehaviorSubject<Histogram | undefined>(undefined);
  /** The light that the picture holds for white. */
  readonly white$ = new BehaviorSubject<WhiteBalance>(SCREEN_WHITE);
  /** A place in the picture, parts of its width and height, that is to be grey; and the white that makes it so. */
  readonly greyAt$ = new Subject<{ x: number; y: number }>();
  readonly pickedWhite$ = new Subject<WhiteSetting>();
  readonly pointed$ = new BehaviorSubject<Pointed | undefined>(undefined);
  /** A surface that was clicked, until the schedule has opened its row. */
  readonly picked$ = new BehaviorSubject<Pointed | undefined>(undefined);
  /** Takes the next picked point for itself, in place of the schedule. */
  readonly pointTaker$ = new BehaviorSubject<((point: Pointed) => void) | undefined>(undefined);
  /** Source materials whose surfaces stand out: source/material. */
  readonly highlighted$ = new BehaviorSubject<string | undefined>(undefined);
  /** Places that are pointed out over the picture. */
  readonly marks$ = new BehaviorSubject<readonly Mark[]>([]);
  /** Elements that stand out: source/element. */
  readonly marked$ = new BehaviorSubject<ReadonlyMap<string, MarkKind>>(new Map());
  /** Whether something in the scene moves by itself, whether it is let move, and the moment that is shown, seconds. */
  readonly isAlive$ = new BehaviorSubject<boolean>(false);
  readonly inMotion$ = new BehaviorSubject<boolean>(false);
  readonly timeS$ = new BehaviorSubject<number>(0);
  readonly detailChoice$ = new BehaviorSubject<DetailChoice>('automatic');
  /** Bytes that maps take in the working picture, and may take; undefined: there is none. */
  readonly mapMemory$ = new BehaviorSubject<{ used: number; most: number } | undefined>(undefined);
  readonly detail$ = new BehaviorSubject<DetailReport | undefined>(undefined);
  /** `passing`: one of many, no place to come back to; perhaps developed in a way of its own. */
  readonly goTo$ = new Subject<{ camera: Camera; name?: string; passing?: boolean; development?: Development | undefined }>();
  /** The walk whose profile stands in place of the day, the moment of it that is shown, and where it goes through something. */
  readonly openWalk$ = new BehaviorSubject<(KeptWalk & { id: string }) | undefined>(undefined);
  readonly walkAt$ = new BehaviorSubject(0);
  readonly walkFaults$ = new BehaviorSubject<readonly WalkFault[]>([]);
  /** Places that are asked about: what lies under them. */
  readonly surveys$ = new Subject<{
    places: Float64Array<ArrayBuffer>;
    ignored: readonly string[];
    headroomM?: number | undefined;
    /** What is cut at the height that is looked from is told too. */
    cuts?: boolean | undefined;
    resolve: (survey: Survey) => void;
  }>();
  /** A walk that is to be exposed for, and how. */
  readonly meter$ = new Subject<Walk>();
  readonly exposures$ = new Subject<Exposures>();
  /** Small pictures of what is seen under other light: those that are asked for, and those that are made. */
  readonly proofsWanted$ = new Subject<{ lane: string; proofs: (Omit<ProofJob, 'frame' | 'lane'> & Partial<Pick<ProofJob, 'frame'>>)[] }>();
  readonly proof$ = new Subject<Extract<FromRefiner, { type: 'proof' }>>();
  /** Light of a row of lamps that is to be known by itself, and a level that the row is shown at. */
  readonly levelLayer$ = new Subject<LevelLayerJob>();
  readonly level$ = new Subject<{ row: string; level: number }>();
  /** A place whose horizon is asked for, and how high the sky is hidden about it, by bearing from y. */
  readonly horizonAt$ = new Subject<readonly [number, number, number]>();
  readonly horizon$ = new Subject<readonly number[]>();
  /** The pointer is on a handle over the picture, which takes what it does. */
  gizmoHolds: () => boolean = () => false;
  /** A box that was drawn over the picture, from its left and top: parts of its width and height. */
  readonly boxed$ = new Subject<{ left: number; top: number; right: number; bottom: number }>();
  /** URL of the refined picture that is shown; undefined: there is none. */
  refined: () => string | undefined = () => undefined;
  /** The picture passes over to what comes next in so many seconds. */
  readonly blend$ = new Subject<number>();
  /** A condition that is being dragged from its slip. */
  readonly condition$ = new BehaviorSubject<string | undefined>(undefined);
  readonly back$ = new Subject<void>();
  readonly next$ = new Subject<void>();
  /** Looks at all of the building. */
  readonly seeAll$ = new Subject<void>();
  /** A finish that is being dragged from the schedule. */
  readonly dragged$ = new BehaviorSubject<string | undefined>(undefined);
  /** Size of the picture in CSS pixels. */
  readonly size$ = new BehaviorSubject<{ width: number; height: number }>({ width: 1280, height: 720 });
}
