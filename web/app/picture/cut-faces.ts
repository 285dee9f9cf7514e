import * as THREE from 'three';
import { isClosed } from '../../../core/geometry/is-closed';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';
import { dot } from '../../../core/geometry/vec3';
import { fillOf, type Cuts } from '../../../core/project/sections';
import type { SceneInstance } from '../../../core/scene/scene';

/** What sections do to surfaces on the GPU: planes of some layers alone, and cut faces in their colour. */

/** Planes of some layers that are cut by here; an eighth bit would look like what has no mark. */
const MOST_OF_LAYERS = 7;
/** What falls onto cut faces, as a share of white: they are drawn evenly. */
const LIT = 0.75;

export interface CutUniforms {
  layerPlanes: { value: THREE.Vector4[] };
  layerPlaneCount: { value: number };
  /** The eye looks from where things are cut away, so that the backs of closed bodies are seen through their cut faces. */
  looksIn: { value: boolean };
}

export const cutUniforms = (): CutUniforms => ({
  layerPlanes: { value: Array.from({ length: MOST_OF_LAYERS }, () => new THREE.Vector4()) },
  layerPlaneCount: { value: 0 },
  looksIn: { value: false },
});

const ofLayers = ({ planes }: Cuts) => planes.filter(({ layers }) => layers).slice(0, MOST_OF_LAYERS);

export function setCutUniforms({ layerPlanes, layerPlaneCount }: CutUniforms, cuts: Cuts | undefined): void {
  const planes = cuts ? ofLayers(cuts) : [];
  layerPlaneCount.value = planes.length;
  for (const [i, { normal, offsetM }] of planes.entries()) layerPlanes.value[i]!.set(normal[0], normal[1], normal[2], offsetM);
}

export const looksInto = ({ planes }: Cuts, eye: readonly [number, number, number]): boolean =>
  planes.some(({ normal, offsetM }) => dot(normal, eye) > offsetM);

/** Changes where marks do: a plane that is dragged changes none of them. */
export const marksOf = (cuts: Cuts | undefined): string =>
  cuts ? JSON.stringify([ofLayers(cuts).map(({ layers }) => layers), cuts.fills]) : '';

const closed = new WeakMap<PreparedMesh, boolean>();
function isSolid(mesh: PreparedMesh): boolean {
  let known = closed.get(mesh);
  if (known === undefined) closed.set(mesh, (known = isClosed(mesh)));
  return known;
}

/** Of an instance: the colour of its cut faces, three bytes, 0 0 0 where it stays hollow; and which planes of layers cut it, bit by bit. */
export function cutMark(
  cuts: Cuts,
  instance: Pick<SceneInstance, 'class' | 'layer'>,
  mesh: PreparedMesh,
): [number, number, number, number] {
  const bits = ofLayers(cuts).reduce((all, { layers }, i) => (layers!.includes(instance.layer ?? '') ? all | (1 << i) : all), 0);
  // One of the three is never 0, which would look like none.
  const fill = isSolid(mesh) ? Number.parseInt(fillOf(cuts, instance.class).slice(1), 16) | 1 : 0;
  return [fill >> 16, (fill >> 8) & 255, fill & 255, bits];
}

/** Puts both into a shader of three's; geometry without marks is cut by no layer and stays hollow. */
export function cutShader(shader: THREE.WebGLProgramParametersWithUniforms, uniforms: CutUniforms): void {
  Object.assign(shader.uniforms, uniforms);
  shader.vertexShader = shader.vertexShader
    .replace(
      '#include <common>',
      '#include <common>\n#ifdef CUT\nattribute vec4 cut;\nvarying vec4 cutMark;\nvarying vec3 cutPlace;\n#endif',
    )
    .replace(
      '#include <project_vertex>',
      /* glsl */ `#include <project_vertex>
      #ifdef CUT
        cutMark = cut;
        vec4 placed = vec4(transformed, 1.0);
        #ifdef USE_INSTANCING
          placed = instanceMatrix * placed;
        #endif
        cutPlace = (modelMatrix * placed).xyz;
      #endif`,
    );
  shader.fragmentShader = shader.fragmentShader
    .replace(
      '#include <clipping_planes_fragment>',
      /* glsl */ `#include <clipping_planes_fragment>
      #ifdef CUT
        int bits = int(cutMark.a * 255.0 + 0.5);
        if (bits < 255)
          for (int i = 0; i < ${String(MOST_OF_LAYERS)}; i++)
            if (i < layerPlaneCount && (bits >> i & 1) == 1 && dot(layerPlanes[i].xyz, cutPlace) > layerPlanes[i].w) discard;
      #endif`,
    )
    .replace(
      '#include <opaque_fragment>',
      /* glsl */ `
      #ifdef CUT
        if (looksIn && !gl_FrontFacing && dot(cutMark.rgb, vec3(1.0)) > 0.0) outgoingLight = pow(cutMark.rgb, vec3(2.2)) * ${LIT.toFixed(2)};
      #endif
      #include <opaque_fragment>`,
    )
    .replace(
      'void main() {',
      /* glsl */ `
      #ifdef CUT
        varying vec4 cutMark;
        varying vec3 cutPlace;
        uniform vec4 layerPlanes[${String(MOST_OF_LAYERS)}];
        uniform int layerPlaneCount;
        uniform bool looksIn;
      #endif
      void main() {`,
    );
}
