import { cameraFrame, type CameraFrame } from '../camera/camera';
import { prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { compose, IDENTITY } from '../geometry/mat4';
import { MeshBuilder } from '../geometry/shapes';
import type { RenderedScene } from '../scene/rendered-scene';
import { clearSky, type Sky } from '../sky/sky-map';
import { PLAIN_FINISH, type Finish } from '../finish/finish';

/** A finish as one judges it: on a board and a ball at true size, outdoors, on a grey ground with a light and a dark stripe. */

export const TEST_CARD_EV = 14.2;
const BALL_M = 0.24;

const grey = (id: string, c: number): Finish => ({ ...PLAIN_FINISH, id, name: id, family: 'plain', baseColour: [c, c, c], roughness: 0.9 });
const GROUND = grey('card-ground', 0.55);
const LIGHT = grey('card-light', 0.85);
const DARK = grey('card-dark', 0.2);

const ball = (): PreparedMesh => {
  const rings = 48;
  const profile = Array.from({ length: rings + 1 }, (_, i): [number, number] => {
    const a = -Math.PI / 2 + (Math.PI * i) / rings;
    return [i === 0 || i === rings ? 0 : Math.cos(a) * BALL_M, BALL_M + Math.sin(a) * BALL_M];
  });
  return prepareMesh(new MeshBuilder().revolve([0, 0, 0], profile, 96).build());
};
const slab = (x: number, y: number, z: number): PreparedMesh =>
  prepareMesh(new MeshBuilder().box([-x / 2, -y / 2, 0], [x / 2, y / 2, z]).build());

const MESHES: ReadonlyMap<string, () => PreparedMesh> = new Map([
  ['ball', ball],
  ['board', () => slab(1.5, 0.03, 1.1)],
  ['ground', () => slab(12, 12, 0.1)],
  ['stripe', () => slab(0.16, 3, 0.002)],
]);
const made = new Map<string, PreparedMesh>();

/** The card's own meshes by the names that its scene gives them. */
export function testCardMesh(name: string): PreparedMesh | undefined {
  let mesh = made.get(name);
  const make = MESHES.get(name);
  if (!mesh && make) made.set(name, (mesh = make()));
  return mesh;
}

export function testCardScene(finish: Finish): RenderedScene {
  const lean = Math.sin(0.06);
  const placed = (mesh: string, assigned: Finish, at: readonly number[], turn: readonly number[] = []) => ({
    mesh,
    transform: turn.length + at.length > 0 ? compose(at, turn, []) : IDENTITY,
    finish: assigned,
    emissionScale: 1,
    lens: false,
  });
  return {
    instances: [
      placed('ground', GROUND, [0, 0, -0.1]),
      placed('stripe', LIGHT, [-0.42, 0, 0]),
      placed('stripe', DARK, [0.3, 0, 0]),
      placed('board', finish, [-0.08, 0.3, 0.002], [-lean, 0, 0, Math.sqrt(1 - lean * lean)]),
      placed('ball', finish, [0.42, -0.38, 0.002]),
    ],
    lamps: [],
  };
}

export const testCardSky = (): Sky => clearSky({ trueAltitudeDeg: 42, azimuthDeg: 222, trueNorthDeg: 0 });

/** Looks north, a little down; `aspect` is width by height. */
export const testCardCamera = (aspect: number): CameraFrame =>
  cameraFrame({ position: [-0.2, -2.6, 0.95], target: [0.03, 0, 0.44], focalMm: 58 }, aspect);
