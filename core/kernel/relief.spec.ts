import { describe, expect, it } from 'vitest';
import { prepareMesh } from '../geometry/prepare-mesh';
import { IDENTITY } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { TextureImage } from '../finish/maps/texture-image';
import type { Sky } from '../sky/sky-map';
import { SceneMemory } from './scene-memory';
import { onlySun, image, mapped, lookAlong, lookDown, overhead, fullWhite, type Texel } from './test-face';
import { box, kernelModule, matt, quad, uniformSky } from './testing';

describe('relief', () => {
  /** One step a repeat of 2 m: high and white over the first half, 0.2 m lower and grey over the second. Level normals. */
  const N = 256;
  const step = (high: number, low: number): [TextureImage, TextureImage] => {
    const texels = (of: (x: number) => Texel) =>
      image(
        N,
        1,
        Array.from({ length: N }, (_, x) => of(x)),
      );
    return [
      texels((x) => (x < N / 2 ? [high, high, high, 255] : [low, low, low, 255])),
      texels((x) => [128, 128, 255, x < N / 2 ? 255 : 0]),
    ];
  };
  const stepped = (sky: Sky, high = 255, low = 188, reliefM = 0.2, maxDepth = 1) => {
    const scene = mapped(matt(1, { maps: 'test', widthM: 2, heightM: 2, reliefM }), ...step(high, low), sky);
    scene.settings({ seed: 1, maxDepth });
    return scene;
  };
  const low = 0.5029;

  it('moves what is seen by the depth over the slope of view, and hides what lies behind', () => {
    const scene = stepped(overhead);
    const flat = stepped(overhead, 255, 188, 0);
    // Going towards +x at 45 degrees, the ray into the low half meets the ground 0.2 m farther on.
    for (const [x, seen] of [
      [-0.5, low],
      [0.5, 1],
      [1.02, low],
      [1.7, low],
    ] as const) {
      expect(lookAlong(scene, x, 0, 1) / fullWhite).toBeCloseTo(seen, 2);
    }
    // The next step’s upright side stands in the way; its colours run into each other over one texel.
    expect(lookAlong(scene, 1.85, 0, 1) / fullWhite).toBeGreaterThan(low * 1.2);
    // On the flat the border stays where the map has it.
    expect(lookAlong(flat, 1.85, 0, 1) / fullWhite).toBeCloseTo(low, 2);
    // Straight down nothing moves.
    for (const x of [0.5, 1.1, 1.9]) expect(lookDown(scene, x, 0) / fullWhite).toBeCloseTo(x < 1 ? 1 : low, 2);
  });

  it('throws shadows into its hollows as long as the sun’s slope makes them', () => {
    // The sun over -x at a height of 45 degrees: the step at x = 1 shades 0.2 m of the ground behind it.
    const slanting = stepped(onlySun([-Math.SQRT1_2, 0, Math.SQRT1_2]));
    const lit = (x: number) => lookDown(slanting, x, 0) / fullWhite / Math.SQRT1_2;
    expect(lit(0.5)).toBeCloseTo(1, 2);
    for (const x of [1.03, 1.1, 1.18]) expect(lit(x)).toBe(0);
    for (const x of [1.22, 1.5, 1.9]) expect(lit(x)).toBeCloseTo(low, 2);
    // From the other side the ground is lit up to the step.
    const other = stepped(onlySun([Math.SQRT1_2, 0, Math.SQRT1_2]));
    expect(lookDown(other, 1.1, 0) / fullWhite / Math.SQRT1_2).toBeCloseTo(low, 2);
    expect(lookDown(other, 1.9, 0)).toBe(0);
  });

  it('sends light to and fro and loses little of it: white under an even sky stays near the sky’s own', () => {
    const scene = stepped(uniformSky(100), 255, 255, 0.2, 40);
    for (const x of [0.5, 1.04, 1.5]) {
      const seen = lookDown(scene, x, 0, 4000) / 100;
      expect(seen).toBeGreaterThan(0.93);
      expect(seen).toBeLessThan(1.02);
    }
    // Black on top: what stands low at the foot of the step sees less of the sky; half of it at the very foot.
    const foot = (x: number) => lookDown(stepped(uniformSky(100), 0, 255, 0.2, 1), x, 0, 4000) / 100;
    expect(foot(1.5)).toBeGreaterThan(0.93);
    // A point d from a long wall of height h misses (1 - d / hypot(d, h)) / 2 of the cosine-weighted sky.
    for (const d of [0.05, 0.1, 0.2]) expect(foot(1 + d)).toBeCloseTo(1 - (1 - d / Math.hypot(d, 0.2)) / 2, 1);
  });

  /** Seen from the side over the edge at y = 2, going down by 0.1: 0.1 m below the face where it gets there from y = 1. */
  const overEdge = (x: number, ...meshes: Mesh[]) => {
    const finish = matt(0, { maps: 'test', widthM: 2, heightM: 2, reliefM: 0.2 });
    const scene = new SceneMemory(kernelModule());
    const [base, surface] = step(255, 188);
    scene.setSky(uniformSky(100));
    scene.setScene(
      {
        instances: meshes.map((_, i) => ({ mesh: String(i), transform: IDENTITY, finish, emissionScale: 1, lens: false })),
        lamps: [],
      },
      { mesh: (key) => prepareMesh(meshes[Number(key)]!), maps: () => ({ base, surface }) },
    );
    scene.settings({ seed: 1, maxDepth: 1 });
    const l = Math.hypot(1, 0.1);
    return scene.kernel.measureRadiance(scene.scene, x, -9, 1, 0, 1 / l, -0.1 / l, 64, 1);
  };
  const block = box([-2, -2, -1], [2, 2, 0]);
  const face = quad([-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]);

  it('cuts notches into outlines: what comes in low over a hollow goes on past the edge', () => {
    for (const mesh of [block, face]) {
      expect(overEdge(0.5, mesh)).toBe(0);
      expect(overEdge(1.5, mesh)).toBe(100);
      expect(overEdge(-0.5, mesh)).toBe(100);
    }
  });

  it('keeps its ground where another face carries it on, and where the edge is out of reach', () => {
    expect(overEdge(1.5, block, box([-2, 2, -1], [2, 5, 0]))).toBe(0);
    expect(overEdge(1.5, face, quad([-2, 2, 0], [2, 2, 0], [2, 5, 0], [-2, 5, 0]))).toBe(0);
    expect(overEdge(1.5, box([-2, -2, -1], [2, 4, 0]))).toBe(0);
  });
});
