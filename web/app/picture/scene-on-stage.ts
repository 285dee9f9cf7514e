import { mapSetsOf } from '../../../core/scene/material-pictures';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';
import type { Bounds } from '../../../core/geometry/mesh';
import { sceneBounds } from '../../../core/scene/scene-bounds';
import { joinSteps, type NumberedScene, type SceneStep } from '../../../core/scene/compile';
import type { ToRefiner } from './refine-messages';
import { isThing } from '../../../core/setting/setting-model';
import type { SceneInstance } from '../../../core/scene/scene';
import { SceneSender, transferOf } from './scene-changes';
import type { Stage } from './stage';
import { WorkingDetail, type DetailChoice, type DetailReport, type SimpleMesh } from './working-detail';

const NO_LIMIT = { moving: Infinity, resting: Infinity };

interface Surroundings {
  /** Undefined where there is no WebGL. */
  stage: Stage | undefined;
  tell: (message: ToRefiner, transfer?: Transferable[]) => void;
  choice: () => DetailChoice;
  /** The stage has another scene now. */
  shown: (report: DetailReport) => void;
}

/** What the budget of triangles is counted by: things have one of their own. */
const counted = (instances: readonly SceneInstance[]) => instances.filter((instance) => !isThing(instance));

/** Brings one scene after the other to the refining worker and the stage, and asks for the meshes and maps that they need. */
export class SceneOnStage {
  scene: NumberedScene = { number: 0, instances: [], lamps: [] };
  /** How the scene differs from what is on the stage. */
  private unshown: SceneStep | 'all' | undefined = 'all';
  /** How it differs from what the refining worker knows, as far as steps tell. */
  private unsent: { step: SceneStep | undefined } | undefined;
  private shownVersion = 0;
  private parts = 0;
  private readonly sender = new SceneSender();
  private readonly detail: WorkingDetail;
  private readonly askedMeshes = new Set<string>();
  private readonly askedSimple = new Set<string>();
  /** Meshes that are on their way, and that the stage is without. */
  private awaited = 0;
  missing = 0;
  private readonly askedMaps = new Set<string>();
  private readonly askedWholeMaps = new Set<string>();
  /** When the scene was last brought to the stage, and how long that took; what comes in a rush is shown together. */
  private shownAt = 0;
  private showingTook = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly around: Surroundings) {
    this.detail = new WorkingDetail(around.stage?.budget ?? NO_LIMIT);
  }

  get isEmpty(): boolean {
    return this.parts === 0;
  }

  /** All meshes of the scene are there. */
  get isWhole(): boolean {
    return this.scene.instances.every(({ mesh }) => this.detail.of(mesh));
  }

  /** The box about the building; undefined: nothing is there yet. */
  bounds(): Bounds | undefined {
    return sceneBounds(this.scene.instances, (hash) => this.detail.of(hash)?.resting);
  }

  readonly meshesOf = (hash: string) => this.detail.of(hash);

  take(scene: NumberedScene): void {
    const step = scene.step?.from === this.scene.number ? scene.step : undefined;
    this.scene = scene;
    this.unshown = step && this.unshown !== 'all' ? (this.unshown ? joinSteps(this.unshown, step) : step) : 'all';
    const fresh = step ? step.added : scene.instances;
    this.parts = step ? this.parts + step.added.length - step.removed.length : fresh.length;
    const meshes = [...new Set(fresh.map(({ mesh }) => mesh))].filter((hash) => !this.askedMeshes.has(hash));
    for (const hash of meshes) this.askedMeshes.add(hash);
    this.awaited += meshes.length;
    if (meshes.length > 0) this.around.tell({ type: 'need-meshes', hashes: meshes });
    for (const { finish } of fresh)
      for (const name of mapSetsOf(finish.maps)) {
        if (this.askedMaps.has(name)) continue;
        this.askedMaps.add(name);
        this.around.tell({ type: 'need-maps', name, size: this.around.stage ? 'small' : 'whole' });
      }
    this.unsent = { step: scene.step && this.unsent?.step ? joinSteps(this.unsent.step, scene.step) : scene.step };
    this.detail.count(step ? { ...step, removed: counted(step.removed), added: counted(step.added) } : counted(scene.instances));
    // What is on its way is waited for, so that an edited part never blinks; at the start everything shows as it comes.
    if (meshes.length === 0 || this.detail.isEmpty) this.show();
  }

  /** Tells the refining worker of the scene, which it needs only when it is to refine: the stage comes first. */
  send(): void {
    if (!this.unsent) return;
    const change = this.sender.changeTo(this.scene, this.unsent.step);
    this.unsent = undefined;
    this.around.tell({ type: 'scene', change }, transferOf(change));
  }

  /** Asks for map sets in full that have been small so far; those that did not ship come in one size. */
  needWholeMaps(names: readonly string[]): void {
    for (const name of names) {
      if (name.includes(':') || this.askedWholeMaps.has(name)) continue;
      this.askedWholeMaps.add(name);
      this.around.tell({ type: 'need-maps', name, size: 'whole' });
    }
  }

  addMeshes(meshes: readonly (readonly [string, PreparedMesh])[], missing: readonly string[]): void {
    this.detail.add(meshes);
    this.awaited -= meshes.length + missing.length;
    for (const hash of missing) this.askedMeshes.delete(hash);
    this.showSoon();
  }

  addSimple(meshes: readonly (readonly [string, SimpleMesh | null])[]): void {
    this.detail.addSimple(meshes);
    this.showSoon();
  }

  show(): void {
    const start = performance.now();
    const { report, wanted } = this.detail.settle(this.around.choice());
    const fresh = wanted.filter((hash) => !this.askedSimple.has(hash));
    for (const hash of fresh) this.askedSimple.add(hash);
    if (fresh.length > 0) this.around.tell({ type: 'need-simple', hashes: fresh });
    // A scene too large to be shown whole is shown when its simple meshes are there.
    if (report.way === 'always' && wanted.length > 0) return;
    const { stage } = this.around;
    const step = this.unshown === 'all' || this.shownVersion !== this.detail.version ? undefined : this.unshown;
    const whole = step ? stage?.stepScene(this.scene, step, this.meshesOf) : stage?.setScene(this.scene, this.meshesOf);
    this.unshown = whole ? undefined : 'all';
    this.missing = this.awaited;
    this.shownVersion = this.detail.version;
    this.around.shown(report);
    this.shownAt = performance.now();
    this.showingTook = this.shownAt - start;
  }

  close(): void {
    clearTimeout(this.timer);
  }

  /** Shows the scene, but not more often than it can be shown. */
  private showSoon(): void {
    clearTimeout(this.timer);
    const wait = this.shownAt + 3 * this.showingTook - performance.now();
    if (wait <= 0) this.show();
    else
      this.timer = setTimeout(() => {
        this.show();
      }, wait);
  }
}
