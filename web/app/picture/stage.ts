import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import { halvingsWithin, type MapUse } from '../../../core/finish/maps/texture-budget';
import { cameraFrame } from '../../../core/camera/camera';
import type { Drawing } from '../../../core/project/style';
import { poseCamera } from './pose-camera';
import type { Met as WalkMet } from '../../../core/camera/walker';
import { add, cross, distance, normalise, scale, subtract, type Vec3 } from '../../../core/geometry/vec3';
import { exposureScale } from '../../../core/image/tone';
import type { WhiteBalance } from '../../../core/image/white-balance';
import type { Camera } from '../../../core/model/schema';
import { isCutAway, type Cuts } from '../../../core/project/sections';
import type { SceneStep } from '../../../core/scene/compile';
import { gradingWithCube, type ChosenGrading } from '../../../core/scene/grading-of';
import { directionOf } from '../../../core/sky/sun';
import type { Scene, SceneInstance } from '../../../core/scene/scene';
import type { Sky } from '../../../core/sky/sky-map';
import { BladesOnStage, type TuftGroup } from './blades-on-stage';
import { ToneMappingPass } from './tone-mapping-pass';
import { GroundOnStage } from './ground-on-stage';
import { Filters } from './filters';
import { FinishMaterials } from './finish-materials';
import type { MarkKind } from '../state/picture-state';
import { looksInto, marksOf, setCutUniforms } from './cut-faces';
import { LampLights } from './lamp-lights';
import { mapUses } from './map-uses';
import { markMaterial } from './mark-materials';
import { castRay, type CastParts, type Met } from './picking';
import { RoundedEdges } from './rounded-edges';
import { SizeCount, seenSizes, type SeenFrom } from './seen-sizes';
import { SkyLight } from './sky-light';
import { SunLight } from './sun-light';
import { SunTint } from './sun-tint';
import { ThingsOnStage } from './things-on-stage';
import { isThing } from '../../../core/setting/setting-model';
import { SurfaceBatch, type Chosen, type PartMeshes } from './surface-batch';
import { groupKey, SurfaceGroups } from './surface-groups';
import type { Budget } from './working-detail';

/** A surface under the pointer. */
export interface Picked {
  instance: SceneInstance;
  point: [number, number, number];
  /** A corner of the triangle that was met, if one lies next to the pointer. */
  corner?: [number, number, number] | undefined;
  distanceM: number;
  edge: Met['edge'];
  plane: Met['plane'];
  /** Of the triangle that was met, on its outer side. */
  normal: Vec3;
}

/** Classes of elements that somebody who walks goes through. */
const LETS_THROUGH = /door|planting/i;

/** Triangles that the working picture is to draw at most, moving and at rest: where a processor draws, and on a GPU. */
const BUDGETS: Record<'software' | 'gpu', Budget> = {
  software: { moving: 100_000, resting: 150_000 },
  gpu: { moving: 3_000_000, resting: 8_000_000 },
};
/** Triangles of planting and entourage. */
const THING_TRIANGLES = { software: 60_000, gpu: 4_000_000 };
/** Triangles of grass in the working picture; the kernel draws all of it. */
const BLADE_TRIANGLES = { software: 60_000, gpu: 3_000_000 };
/** Bytes that maps take at most, mip levels included. */
const MAP_BUDGETS = { software: 320e6, gpu: 1000e6 };
/** What is smaller than this in the shadow map throws none. */
const LEAST_SHADOW_PX = 2;
/** Up to so many parts each step of a scene is asked whether it still stands on the same ground. */
const FEW_PARTS = 20_000;
const CORNER_REACH_PX = 14;
/** Surfaces that a section has cut away, before one that is seen; and how far beyond each is looked on, metres. */
const MOST_CUT = 200;
const BEYOND_M = 0.001;
const HORIZON_STEPS = 72;
const HORIZON_LIFT_M = 0.05;

/** The working picture: the scene on the GPU, drawn when asked. Radiance is in units of what is shown white. */
export class Stage {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly root = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(40, 16 / 9, 0.1, 4500);
  private readonly sun = new SunLight();
  private readonly sunTint: SunTint;
  private readonly groups = new SurfaceGroups({
    came: (batch) => {
      if (this.cuts) batch.markCuts(this.cuts);
      this.root.add(batch.mesh);
    },
    went: (batch) => {
      this.filters.drop(batch);
      this.root.remove(batch.mesh);
    },
    assignMaterial: (key, batch) => { this.assignMaterial(key, batch); },
    shapeChanged: () => (this.shapeChanged = true),
  }); // prettier-ignore
  private readonly marks: SurfaceBatch[] = [];
  private readonly filters = new Filters(this.root);
  private readonly lamps = new LampLights(this.root);
  private readonly ground = new GroundOnStage(this.root, (instance) => this.materialOf(instance));
  private readonly blades: BladesOnStage;
  private readonly edges: RoundedEdges;
  private readonly toneMapping: ToneMappingPass;
  readonly materials: FinishMaterials;
  readonly budget: Budget;
  private readonly mapBudget: number;
  /** Drawn by the processor. */
  readonly software: boolean;
  private readonly highlighted = new Set<string>();
  private readonly skyLight = new SkyLight();
  private cuts: Cuts | undefined;
  private cutMarks = '';
  private ev100 = 12;
  private shadowStale = true;
  /** Since the scene was last set; what only has something else throws the shadow that it threw. */
  private shapeChanged = true;

  readonly things: ThingsOnStage;
  /** A picture of a thing has arrived: another frame is needed. */
  thingArrived: () => void = () => undefined;

  /** Throws when the browser has no WebGL2. */
  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: 'high-performance' });
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.renderer.toneMapping = THREE.NoToneMapping;
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFShadowMap;
    this.renderer.shadowMap.autoUpdate = false;
    const software = isSoftware(this.renderer);
    this.software = software;
    this.budget = BUDGETS[software ? 'software' : 'gpu'];
    this.mapBudget = MAP_BUDGETS[software ? 'software' : 'gpu'];
    this.sunTint = new SunTint(this.renderer);
    this.materials = new FinishMaterials(
      this.skyLight.uniforms,
      this.sunTint.uniforms,
      software ? 1 : Math.min(8, this.renderer.capabilities.getMaxAnisotropy()),
      software,
    );
    this.blades = new BladesOnStage(this.root, BLADE_TRIANGLES[software ? 'software' : 'gpu'], (finish) =>
      this.materials.get(finish, 1, 0, false),
    );
    this.things = new ThingsOnStage(
      this.root,
      (instance) => this.materialOf(instance),
      (finish) => this.materials.get(finish, 1, 0, false),
      () => {
        this.shadowStale = true;
        this.thingArrived();
      },
    );
    this.edges = new RoundedEdges(this.root, (instance) => this.materialOf(instance));
    this.toneMapping = new ToneMappingPass(this.renderer, this.skyLight.uniforms, software);
    this.camera.up.set(0, 0, 1);
    this.root.add(this.sun.light, this.sun.light.target, this.skyLight.probe);
  }

  /** Brings the drawn scene to another state; only what differs is touched. False: some meshes were not there. */
  setScene(scene: Scene, meshesOf: (hash: string) => PartMeshes | undefined): boolean {
    const others = this.groups.setScene(scene.instances.filter((instance) => !isThing(instance)), meshesOf); // prettier-ignore
    const whole = this.setThings(scene, meshesOf) && others;
    this.ground.lay(scene, meshesOf);
    this.sceneChanged(scene);
    return whole;
  }

  /** The same, a step on from the scene that was set last, when all its meshes were there. */
  stepScene(scene: Scene, step: SceneStep, meshesOf: (hash: string) => PartMeshes | undefined): boolean {
    const others = (list: readonly SceneInstance[]) => list.filter((instance) => !isThing(instance));
    const stepped = this.groups.stepScene({ ...step, removed: others(step.removed), added: others(step.added) }, meshesOf);
    const hasThings = step.removed.some(isThing) || step.added.some(isThing);
    const whole = (!hasThings || this.setThings(scene, meshesOf)) && stepped;
    if (this.parts < FEW_PARTS) this.ground.lay(scene, meshesOf);
    this.sceneChanged(scene);
    return whole;
  }

  private setThings(scene: Scene, meshesOf: (hash: string) => PartMeshes | undefined): boolean {
    const before = this.things.version;
    const whole = this.things.set(scene.instances, (hash) => meshesOf(hash)?.resting);
    if (this.things.version !== before) this.shapeChanged = true;
    return whole;
  }

  private castParts(): CastParts[] {
    return [...this.groups.batches, this.things.parts];
  }

  private sceneChanged({ lamps }: Scene): void {
    this.edges.clear();
    this.lamps.set(lamps, this.ev100);
    this.toneMapping.setFogBase(this.ground.lowestM);
    if (this.shapeChanged) this.fitShadow();
    this.shapeChanged = false;
  }

  setSky(sky: Sky): void {
    this.skyLight.set(sky);
    this.toneMapping.setFog(sky);
    this.sun.set(sky);
    this.fitShadow();
    this.applyExposure();
  }

  setCuts(cuts: Cuts | undefined): void {
    this.cuts = cuts;
    const all = cuts?.planes.filter(({ layers }) => !layers) ?? [];
    setCutUniforms(this.materials.cut, cuts);
    this.materials.setCutting(cuts !== undefined);
    const marks = marksOf(cuts);
    if (marks !== this.cutMarks) for (const batch of this.groups.batches) batch.markCuts(cuts);
    this.cutMarks = marks;
    this.renderer.clippingPlanes = all.map(({ normal, offsetM }) => new THREE.Plane(new THREE.Vector3(...scale(normal, -1)), offsetM));
    this.shadowStale = true;
  }

  setDrawing(drawing: Drawing): void {
    this.toneMapping.setDrawing(drawing);
  }

  setExposure(ev100: number): void {
    if (Math.abs(ev100 - this.ev100) < 1e-3) return;
    this.ev100 = ev100;
    this.applyExposure();
  }

  setWhite(white: WhiteBalance): void {
    this.toneMapping.setWhite(white);
  }

  setGrading(chosen: ChosenGrading): void {
    const { grading, cube } = gradingWithCube(chosen);
    this.toneMapping.setGrading(grading, cube);
  }

  /** Seconds; water and the like are drawn as they are then. */
  setTime(timeS: number): void {
    this.materials.time.value = timeS;
  }

  /** Whether anything in the scene moves by itself. */
  get isAlive(): boolean {
    return this.groups.batches.some(({ instances }) => instances[0]!.finish.waves !== null);
  }

  /** Grass as the kernel has grown it. */
  setBlades(groups: readonly TuftGroup[]): void {
    this.blades.set(groups);
  }

  setSize(width: number, height: number): void {
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
  }

  setCamera(camera: Camera): void {
    poseCamera(this.camera, camera);
    this.toneMapping.setLens(cameraFrame(camera, this.camera.aspect));
  }

  /** Draws one frame; `moving` trades resolution and small parts for speed. */
  render(moving: boolean): void {
    this.choose(moving);
    const { x, y, z } = this.camera.position;
    this.materials.cut.looksIn.value = this.cuts !== undefined && looksInto(this.cuts, [x, y, z]);
    // A processor that draws has enough to do while the camera moves.
    this.blades.visible = this.edges.visible = !moving || !this.software;
    this.edges.renew();
    if (this.throwsShadows(moving)) this.throwShadows();
    this.toneMapping.render(this.root, this.camera, moving);
  }

  /** Whether a frame at rest draws more than one while moving. */
  get isHeavy(): boolean {
    let triangles = 0;
    for (const { restingTriangles } of this.groups.batches) triangles += restingTriangles;
    return triangles > this.budget.moving;
  }

  /** How many parts are drawn. */
  get parts(): number {
    let parts = 0;
    for (const batch of this.groups.batches) parts += batch.instances.length;
    return parts + this.things.count;
  }

  /** The nearest surface at a place of the picture (0..1 from the left and top). */
  pick(x: number, y: number): Picked | undefined {
    const [near, far] = [-1, 1].map((depth) => new THREE.Vector3(x * 2 - 1, 1 - y * 2, depth).unproject(this.camera)) as [
      THREE.Vector3,
      THREE.Vector3,
    ];
    const met = this.meetUncut(near.toArray(), far.sub(near).normalize().toArray());
    return met && { ...pickedOf(met), corner: this.cornerNear(met) };
  }

  /** The first surface that no section has cut away. */
  private meetUncut(from: Vec3, way: Vec3): Met | undefined {
    let origin = from;
    for (let k = 0; k < MOST_CUT; k++) {
      const met = castRay(this.castParts(), origin, way);
      if (!met || !this.cuts || !isCutAway(this.cuts, met.instance.layer, met.point)) return met;
      origin = add(met.point, scale(way, BEYOND_M));
    }
    return undefined;
  }

  /** What somebody meets who walks: doors and plants let through. */
  meet(from: Vec3, way: Vec3, reachM: number): WalkMet | undefined {
    const met = castRay(this.castParts(), from, way, reachM);
    if (!met) return undefined;
    const {
      instance,
      corners: [a, b, c],
      distanceM,
    } = met;
    const kind = instance.finish.family === 'water' ? 'water' : LETS_THROUGH.test(instance.class ?? '') ? 'open' : 'solid';
    return { distance: distanceM, normal: cross(subtract(b!, a!), subtract(c!, a!)), kind };
  }

  /** The nearest surface below a point. */
  below(point: readonly [number, number, number], reachM: number): Picked | undefined {
    const met = castRay(this.castParts(), point, [0, 0, -1], reachM);
    return met && pickedOf(met);
  }

  /**
   * How high, degrees, what stands about a place hides the sky, in even steps of bearing clockwise from y; to 2 degrees. What is
   * hidden above an open gap, as by a roof, counts as open up to there.
   */
  horizonFrom([x, y, z]: readonly [number, number, number]): number[] {
    const origin = [x, y, z + HORIZON_LIFT_M] as const;
    const isHidden = (bearing: number, altitude: number) => castRay(this.castParts(), origin, directionOf(altitude, bearing)) !== undefined;
    return Array.from({ length: HORIZON_STEPS }, (_, i) => {
      const bearing = (i * 360) / HORIZON_STEPS;
      let altitude = 0;
      while (altitude < 90 && isHidden(bearing, altitude + 1)) altitude += 2;
      return altitude;
    });
  }

  /** Tints the parts of a group (see groupKey) so that they stand out; an empty list ends it. */
  highlight(keys: readonly string[]): void {
    this.highlighted.clear();
    for (const key of keys) this.highlighted.add(key);
    this.groups.assignAll();
    this.things.assignAll();
  }

  /** Covers parts with what says why they stand out; an empty list uncovers all. */
  mark(
    parts: readonly { kind: MarkKind; instances: readonly SceneInstance[] }[],
    meshesOf: (hash: string) => PartMeshes | undefined,
  ): void {
    for (const batch of this.marks.splice(0)) {
      this.root.remove(batch.mesh);
      batch.mesh.material.dispose();
      batch.dispose();
    }
    for (const { kind, instances } of parts) {
      const there = instances.filter((i) => meshesOf(i.mesh));
      if (there.length === 0) continue;
      const batch = new SurfaceBatch(there, (hash) => meshesOf(hash)!);
      batch.showAll();
      batch.mesh.material = markMaterial(kind);
      batch.mesh.renderOrder = 2;
      this.marks.push(batch);
      this.root.add(batch.mesh);
    }
  }

  /** Where a place is seen, as parts of the picture from the left and top; undefined: behind the camera. */
  seenAt(place: readonly [number, number, number]): { x: number; y: number } | undefined {
    const seen = new THREE.Vector3(...place).project(this.camera);
    return seen.z > 1 || Math.abs(seen.x) > 1 || Math.abs(seen.y) > 1 ? undefined : { x: (seen.x + 1) / 2, y: (1 - seen.y) / 2 };
  }

  dispose(): void {
    this.mark([], () => undefined);
    this.blades.clear();
    this.things.clear();
    this.ground.clear();
    this.edges.clear();
    this.groups.clear();
    this.sunTint.dispose();
    this.renderer.dispose();
  }

  /** Settles which parts are drawn in the next frame: all of them, or as many as the budget holds, the largest in view first. */
  private choose(moving: boolean): void {
    // Shadows of things are thrown anew once the picture rests.
    if (this.things.look(this.cameraView(), THING_TRIANGLES[this.software ? 'software' : 'gpu']) && !moving) this.shadowStale = true;
    const batches = this.groups.batches;
    const all = (triangles: 'restingTriangles' | 'movingTriangles') => batches.reduce((sum, batch) => sum + batch[triangles], 0);
    const resting = all('restingTriangles');
    if (moving ? resting <= this.budget.moving : resting <= this.budget.resting) {
      for (const batch of batches) batch.showAll();
      return;
    }
    const seen = this.chosen(this.cameraView(), moving, moving ? this.budget.moving : this.budget.resting);
    const shadow =
      this.throwsShadows(moving) && this.sun.view ? this.chosen(this.sun.view, true, this.budget.moving, LEAST_SHADOW_PX) : undefined;
    for (const [i, batch] of batches.entries()) batch.show(seen[i]!, shadow?.[i]);
  }

  /** For each batch, which of its parts are worth drawing from a place. */
  private chosen(from: SeenFrom, moving: boolean, budget: number, leastPx = 0): Chosen[] {
    const batches = this.groups.batches;
    const sizes = batches.map(({ spheres }) => seenSizes(spheres, from));
    const count = new SizeCount();
    for (const [b, batch] of batches.entries())
      for (let i = 0; i < sizes[b]!.length; i++) if (sizes[b]![i]! > 0) count.add(sizes[b]![i]!, batch.trianglesOf(i, moving));
    const least = Math.max(leastPx, count.leastPx(budget));
    return sizes.map((sizesPx) => ({ sizesPx, leastPx: least, moving }));
  }

  private cameraView(): SeenFrom {
    const { camera } = this;
    const matrix = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    const { planes } = new THREE.Frustum().setFromProjectionMatrix(matrix);
    return {
      planes: Float64Array.from(planes.flatMap(({ normal, constant }) => [...normal.toArray(), constant])),
      eye: camera.position.toArray(),
      pixelsAtOneM: this.pixelsAtOneM(),
      parallel: false,
    };
  }

  /** Halves maps so that they stay within their budget, by how near they are seen; true: another frame is needed. */
  fitMaps(): boolean {
    const total = [...this.materials.mapExtents.values()].reduce((sum, { bytes }) => sum + bytes, 0);
    if (total <= this.mapBudget) return this.materials.halveMaps(new Map());
    return this.materials.halveMaps(halvingsWithin(this.mapUses(), this.mapBudget));
  }

  /** Names of the map sets that are enlarged where they are seen from nearest. */
  enlargedMaps(): readonly string[] {
    return this.mapUses().filter(({ texelsPerPixel }) => texelsPerPixel < 1).map(({ name }) => name); // prettier-ignore
  }

  private mapUses(): MapUse[] {
    const worn = [...this.groups.batches, ...this.things.worn()];
    const { elements } = this.camera.projectionMatrix;
    const isParallel = elements[15] === 1;
    const pixel = 2 / (this.renderer.domElement.height * elements[5]);
    return mapUses(this.materials.mapExtents, worn, this.camera.position.toArray(), (distanceM) =>
      isParallel ? pixel : pixel * distanceM,
    );
  }

  /** Rounds the edges that are seen to be round from here, which may take longer than a frame has; true: another frame is needed. */
  roundEdges(): boolean {
    return this.edges.lookFrom(this.camera.position.toArray(), this.pixelsAtOneM(), this.groups.batches);
  }

  /** Bytes of map memory: used, and at most. */
  get mapMemory(): { used: number; most: number } {
    return { used: this.materials.usedMapBytes, most: this.mapBudget };
  }

  private pixelsAtOneM(): number {
    return this.renderer.domElement.height / (2 * Math.tan((this.camera.fov * Math.PI) / 360));
  }

  private cornerNear({ point, corners, distanceM }: Met): [number, number, number] | undefined {
    const [nearest] = [...corners].sort((a, b) => distance(a, point) - distance(b, point));
    return nearest && distance(nearest, point) < (CORNER_REACH_PX * distanceM) / this.pixelsAtOneM() ? [...nearest] : undefined;
  }

  private assignMaterial(key: string, batch: SurfaceBatch): void {
    const { mesh, instances } = batch;
    const { finish } = instances[0]!;
    const before = mesh.material;
    mesh.material = this.materialOf(instances[0]!, key);
    const clear = isClear(finish);
    // A finish that is cut out throws the shadow of its map; what is clear tints the sun.
    if (mesh.castShadow === clear || finish.cutOut || (clear && mesh.material !== before)) this.shapeChanged = true;
    if (mesh.material !== before) this.filters.set(batch);
    mesh.castShadow = !clear;
    mesh.receiveShadow = true;
    mesh.renderOrder = clear ? 1 : 0;
  }

  private materialOf(instance: SceneInstance, key = groupKey(instance)): THREE.Material {
    const { finish, emissionScale } = instance;
    return this.materials.get(finish, emissionScale, exposureScale(this.ev100), this.highlighted.has(key));
  }

  private applyExposure(): void {
    const unit = exposureScale(this.ev100);
    this.skyLight.expose(unit);
    this.toneMapping.expose(unit);
    this.sun.expose(unit);
    this.lamps.expose(this.ev100);
    this.groups.assignAll();
    this.things.assignAll();
  }

  /** Shadows that take long are thrown anew when the picture rests. */
  private throwsShadows(moving: boolean): boolean {
    return this.shadowStale && this.sun.isUp && !(moving && this.isHeavy && this.sun.light.shadow.map);
  }

  private throwShadows(): void {
    const clear = this.groups.batches.filter(({ instances }) => isClear(instances[0]!.finish));
    this.sunTint.render(this.root, this.sun.light, clear);
    this.shadowStale = false;
  }

  /** The shadow is to be thrown anew. */
  private fitShadow(): void {
    if (this.sun.fit([...this.groups.batches.map(({ mesh }) => mesh.geometry.boundingBox!), ...this.things.boxes])) this.shadowStale = true;
  }
}

/** Whether the sun goes on behind it, in the working picture. */
const isClear = (finish: Finish): boolean => finish.transmission > 0 || finish.opacity < 1;

const pickedOf = ({ instance, point, distanceM, edge, plane, corners: [a, b, c] }: Met): Picked => ({
  instance,
  point: [...point],
  distanceM,
  edge,
  plane,
  normal: normalise(cross(subtract(b!, a!), subtract(c!, a!))),
});

/** Whether WebGL is drawn by the processor; then every fragment counts. */
function isSoftware(renderer: THREE.WebGLRenderer): boolean {
  const gl = renderer.getContext();
  const info = gl.getExtension('WEBGL_debug_renderer_info');
  const name = String(gl.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}
