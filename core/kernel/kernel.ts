import { LAYOUT_VERSION, NETWORK_SCRATCH, TRACE_SCRATCH } from './assembly/layout';

/** The functions of the compiled kernel; see assembly/ for what each does. Pointers are byte offsets. */
export interface KernelExports {
  layoutVersion(): number;
  attach(scene: number, scratch: number): void;
  bvhScratchSize(count: number): number;
  referenceCapacity(triangles: number): number;
  buildMesh(positions: number, indices: number, triangles: number, bounds: number, nodes: number, packets: number, scratch: number): number;
  buildInstances(bounds: number, count: number, nodes: number, scratch: number): number;
  builtLeafCount(): number;
  traceBatch(rays: number, count: number, out: number): number;
  traceClosest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, limit: number, mask: number): number;
  /** 1: rays that this thread's own calls trace are cut by no plane. */
  setUncut(on: number): void;
  traceAny(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, limit: number, mask: number): number;
  readonly hitDistance: WebAssembly.Global<'f32'>;
  readonly hitInstance: WebAssembly.Global<'i32'>;
  renderTile(scene: number, x0: number, y0: number, x1: number, y1: number, first: number, count: number): void;
  renderFeatures(scene: number, x0: number, y0: number, x1: number, y1: number, first: number, count: number): void;
  renderSeen(scene: number, x0: number, y0: number, x1: number, y1: number): void;
  renderChannels(scene: number, x0: number, y0: number, x1: number, y1: number, out: number): void;
  bakeLight(scene: number, points: number, from: number, to: number, count: number, out: number): void;
  prepareMoving(job: number, y0: number, y1: number): void;
  joinMoving(scene: number, job: number, y0: number, y1: number): void;
  measureIlluminance(
    scene: number,
    x: number,
    y: number,
    z: number,
    nx: number,
    ny: number,
    nz: number,
    count: number,
    seed: number,
  ): number;
  measureRadiance(scene: number, x: number, y: number, z: number, dx: number, dy: number, dz: number, count: number, seed: number): number;
  networkInput(scene: number, left: number, top: number, width: number, y0: number, y1: number, scale: number, target: number): void;
  convolve(layer: number, y0: number, y1: number): void;
  networkOutput(
    scene: number,
    left: number,
    top: number,
    width: number,
    y0: number,
    y1: number,
    scale: number,
    source: number,
    line: number,
    inset: number,
    above: number,
    out: number,
  ): void;
  meanRadiance(scene: number, y0: number, y1: number, out: number): void;
  fresnel(cosine: number, eta: number): number;
  setTestMaterial(base: number, metalness: number, roughness: number, ior: number, transmission: number): void;
  setTestLayers(coat: number, coatRoughness: number, diffuseThrough: number): void;
  setTestAnisotropy(strength: number): void;
  setTestSheen(colour: number, roughness: number): void;
  setTestFilm(share: number, index: number, nm: number): void;
  setTestSpecular(share: number, red: number, green: number, blue: number): void;
  setTestCoatNormal(x: number, y: number, z: number): void;
  filmReflectance(cosine: number, index: number, nm: number, f0: number, channel: number): number;
  evaluateBsdf(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number): number;
  sampleBsdf(ox: number, oy: number, oz: number, choice: number, u1: number, u2: number): number;
  bsdfPdf(): number;
  bsdfValue(): number;
  bsdfX(): number;
  bsdfY(): number;
  bsdfZ(): number;
}

export const THREAD_SCRATCH_BYTES = TRACE_SCRATCH + NETWORK_SCRATCH;

/** One instance of the kernel over shared memory: one per thread. */
export function instantiateKernel(module: WebAssembly.Module, memory: WebAssembly.Memory): KernelExports {
  const instance = new WebAssembly.Instance(module, { env: { memory, abort: abortKernel } });
  const kernel = instance.exports as unknown as KernelExports;
  if (kernel.layoutVersion() !== LAYOUT_VERSION) throw new Error('The light kernel is out of date: run npm run build.');
  return kernel;
}

function abortKernel(): never {
  throw new Error('The light kernel stopped.');
}
