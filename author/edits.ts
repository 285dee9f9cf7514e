import * as v from 'valibot';
import { DEFAULT_PARAMETERS, type Parameters } from './model/parameters';

/** Edits that the page's buttons and the scripted session make. Each is a pure step from parameters to parameters. */

const number = (min: number, max: number) => v.pipe(v.number(), v.finite(), v.minValue(min), v.maxValue(max));
const text = v.pipe(v.string(), v.minLength(1), v.maxLength(20_000));
const unit = number(0, 1);
const vec3 = v.strictTuple([number(-1e4, 1e4), number(-1e4, 1e4), number(-1e4, 1e4)]);

export const editSchema = v.variant('edit', [
  v.strictObject({ edit: v.literal('move-wall'), metres: number(0, 3) }),
  v.strictObject({
    edit: v.literal('widen-opening'),
    index: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(5)),
    metres: number(0.6, 2.4),
  }),
  v.strictObject({ edit: v.literal('delete-opening'), index: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(5)) }),
  v.strictObject({ edit: v.literal('delete-column'), column: text }),
  v.strictObject({ edit: v.literal('roof-form'), form: v.picklist(['folded', 'pitched']) }),
  v.strictObject({ edit: v.literal('roof-pitch'), degrees: number(8, 38) }),
  v.strictObject({ edit: v.literal('recolour'), material: text, colour: v.strictTuple([unit, unit, unit]) }),
  v.strictObject({ edit: v.literal('rename'), material: text, name: text }),
  v.strictObject({ edit: v.literal('dim'), luminaire: text, dim: unit }),
  v.strictObject({ edit: v.literal('add-luminaire') }),
  v.strictObject({ edit: v.literal('remove-luminaire'), luminaire: text }),
  v.strictObject({ edit: v.literal('layer'), layer: text, visible: v.boolean() }),
  v.strictObject({ edit: v.literal('phase'), phase: v.picklist(['shell', 'fitted']) }),
  v.strictObject({ edit: v.literal('camera'), position: vec3, target: vec3, focalMm: number(10, 200) }),
  v.strictObject({ edit: v.literal('time'), time: v.pipe(v.string(), v.regex(/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$/)) }),
  v.strictObject({ edit: v.literal('undo') }),
  v.strictObject({ edit: v.literal('start-over') }),
]);
export type Edit = v.InferOutput<typeof editSchema>;

function apply(p: Parameters, e: Edit): Parameters {
  switch (e.edit) {
    case 'move-wall':
      return { ...p, wallShiftM: e.metres };
    case 'widen-opening':
      return { ...p, openings: p.openings.map((w, i) => (i === e.index ? e.metres : w)) };
    case 'delete-opening':
      return { ...p, openings: p.openings.map((w, i) => (i === e.index ? null : w)) };
    case 'delete-column':
      return { ...p, deletedColumns: [...p.deletedColumns, e.column] };
    case 'roof-form':
      return { ...p, roofForm: e.form };
    case 'roof-pitch':
      return { ...p, roofPitchDeg: e.degrees };
    case 'recolour':
      return { ...p, materials: { ...p.materials, [e.material]: { ...p.materials[e.material], colour: e.colour } } };
    case 'rename':
      return { ...p, materials: { ...p.materials, [e.material]: { ...p.materials[e.material], name: e.name } } };
    case 'dim':
      return { ...p, luminaires: { ...p.luminaires, [e.luminaire]: { ...p.luminaires[e.luminaire], dim: e.dim } } };
    case 'add-luminaire':
      return { ...p, extraLuminaires: p.extraLuminaires + 1 };
    case 'remove-luminaire':
      return { ...p, luminaires: { ...p.luminaires, [e.luminaire]: { ...p.luminaires[e.luminaire], removed: true } } };
    case 'layer':
      return { ...p, hiddenLayers: e.visible ? p.hiddenLayers.filter((l) => l !== e.layer) : [...new Set([...p.hiddenLayers, e.layer])] };
    case 'phase':
      return { ...p, phase: e.phase };
    case 'camera':
      return { ...p, camera: { position: e.position, target: e.target, focalMm: e.focalMm } };
    case 'time':
      return { ...p, time: e.time };
    case 'start-over':
      return DEFAULT_PARAMETERS;
    case 'undo':
      return p;
  }
}

/** The tool's document: parameters and its own undo. */
export class AuthorDocument {
  private readonly past: Parameters[] = [];
  parameters: Parameters = DEFAULT_PARAMETERS;

  run(edit: Edit): void {
    if (edit.edit === 'undo') {
      this.parameters = this.past.pop() ?? this.parameters;
      return;
    }
    this.past.push(this.parameters);
    this.parameters = apply(this.parameters, edit);
  }
}

/** A session of twenty edits, as in an hour of design. */
export const SESSION: readonly Edit[] = [
  { edit: 'move-wall', metres: 0.6 },
  { edit: 'widen-opening', index: 2, metres: 2.1 },
  { edit: 'delete-opening', index: 4 },
  { edit: 'delete-column', column: 'column-s3' },
  { edit: 'undo' },
  { edit: 'roof-pitch', degrees: 28 },
  { edit: 'roof-form', form: 'pitched' },
  { edit: 'roof-pitch', degrees: 24 },
  { edit: 'roof-form', form: 'folded' },
  { edit: 'recolour', material: 'cladding', colour: [0.35, 0.3, 0.27] },
  { edit: 'rename', material: 'cladding', name: 'Cladding type B' },
  { edit: 'dim', luminaire: 'pendant-2', dim: 0.3 },
  { edit: 'add-luminaire' },
  { edit: 'remove-luminaire', luminaire: 'pendant-c4' },
  { edit: 'layer', layer: 'Planting', visible: false },
  { edit: 'layer', layer: 'Planting', visible: true },
  { edit: 'phase', phase: 'shell' },
  { edit: 'phase', phase: 'fitted' },
  { edit: 'camera', position: [11.2, -22.5, 1.45], target: [12.2, 2, 2.4], focalMm: 30 },
  { edit: 'time', time: '2026-10-16T18:20' },
];
