import type { Camera } from '../../core/model/schema';

/** Everything that can be edited in the simulated tool. The model is a pure function of this. */
export interface Parameters {
  roofForm: 'folded' | 'pitched';
  roofPitchDeg: number;
  /** How far the east wall of the café is moved out, in metres. */
  wallShiftM: number;
  /** Windows of the north wall: width in metres; null where the opening was deleted. */
  openings: (number | null)[];
  deletedColumns: string[];
  materials: Record<string, { name?: string; colour?: [number, number, number] }>;
  luminaires: Record<string, { dim?: number; removed?: boolean }>;
  extraLuminaires: number;
  hiddenLayers: string[];
  phase: 'shell' | 'fitted';
  camera: Camera;
  time: string;
}

export const DEFAULT_PARAMETERS: Parameters = {
  roofForm: 'folded',
  roofPitchDeg: 22,
  wallShiftM: 0,
  openings: [1.5, 1.5, 1.5, 1.5, 1.5, 1.5],
  deletedColumns: [],
  materials: {},
  luminaires: {},
  extraLuminaires: 0,
  hiddenLayers: ['Grid', 'Annotation'],
  phase: 'fitted',
  camera: { position: [-7.5, -13.5, 1.65], target: [10, 3, 2.6], focalMm: 26 },
  time: '2026-10-16T14:40',
};
