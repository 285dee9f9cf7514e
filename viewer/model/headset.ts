import * as THREE from 'three';
import { EYE_HEIGHT_M } from '../../core/camera/walker';
import type { View } from './view';

/** Of one push of the stick aside. */
const TURN_RAD = Math.PI / 6;
const [PUSHED, LET_GO] = [0.7, 0.3];
const REACH_M = 60;
const INK = 0xb8492a;

/**
 * The building through a headset (WebXR): who wears it stands on the floor at his own height, walks as far as his room goes, points at a
 * floor and lets the trigger go to stand there, and turns by the stick.
 */
export class Headset {
  /** Where the wearer's room stands in the building; its heights go upwards along z, as the building's. */
  private readonly room = new THREE.Group();
  private readonly target = new THREE.Mesh(
    new THREE.RingGeometry(0.18, 0.25, 32),
    new THREE.MeshBasicMaterial({ color: INK, toneMapped: false }),
  );
  private readonly hands: THREE.Object3D[] = [];
  private aiming: THREE.Object3D | undefined;
  private turned = false;

  static async isThere(): Promise<boolean> {
    return (await navigator.xr?.isSessionSupported('immersive-vr').catch(() => false)) ?? false;
  }

  constructor(private readonly view: View) {
    this.target.visible = false;
    for (const number of [0, 1]) {
      const hand = view.renderer.xr.getController(number);
      const beam = new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(), new THREE.Vector3(0, 0, -1.5)]);
      hand.add(new THREE.Line(beam, new THREE.LineBasicMaterial({ color: INK })));
      hand.addEventListener('selectstart', () => (this.aiming = hand));
      hand.addEventListener('selectend', () => { this.go(); }); // prettier-ignore
      this.hands.push(hand);
    }
  }

  async enter(): Promise<void> {
    const { renderer, scene, camera, eye, building } = this.view;
    const session = await navigator.xr!.requestSession('immersive-vr', { optionalFeatures: ['local-floor'] });
    renderer.xr.enabled = true;
    renderer.xr.setReferenceSpaceType('local-floor');
    await renderer.xr.setSession(session);
    scene.add(this.room, this.target);
    this.room.add(camera, ...this.hands);
    this.room.rotation.set(Math.PI / 2, eye.heading, 0, 'XYZ');
    // A view from above is left for the ground.
    const below = building.meet(eye.position, [0, 0, -1], REACH_M);
    if (below) eye.standAt(below.place.toArray());
    this.stand();
    session.addEventListener('end', () => { this.leave(); }); // prettier-ignore
    renderer.setAnimationLoop(() => { this.draw(session); }); // prettier-ignore
  }

  /** The wearer's floor is where the eye stands. */
  private stand(): void {
    const [x, y, z] = this.view.eye.position;
    this.room.position.set(x, y, z - EYE_HEIGHT_M);
  }

  private draw(session: XRSession): void {
    this.turn(session);
    this.aim();
    this.view.renderer.render(this.view.scene, this.view.camera);
    const { dataset } = this.view.canvas;
    const head = new THREE.Vector3().setFromMatrixPosition(this.view.renderer.xr.getCamera().matrixWorld);
    dataset['head'] = head.toArray().map((metres) => metres.toFixed(2)).join(' '); // prettier-ignore
    dataset['aimed'] = String(this.target.visible);
  }

  /** Where the hand that holds the trigger points to, if one can stand there. */
  private aim(): void {
    const met = this.aiming && this.met(this.aiming);
    this.target.visible = met !== undefined;
    if (met) this.target.position.copy(met).add(new THREE.Vector3(0, 0, 0.02));
  }

  private met(hand: THREE.Object3D): THREE.Vector3 | undefined {
    const from = new THREE.Vector3().setFromMatrixPosition(hand.matrixWorld);
    const way = new THREE.Vector3(0, 0, -1).transformDirection(hand.matrixWorld);
    const met = this.view.building.meet(from.toArray(), way.toArray(), REACH_M);
    return met && met.normal.z > 0.5 ? met.place : undefined;
  }

  private go(): void {
    const met = this.aiming && this.met(this.aiming);
    this.aiming = undefined;
    if (!met) return;
    this.view.eye.standAt(met.toArray());
    this.stand();
  }

  private turn(session: XRSession): void {
    const sticks = [...session.inputSources].map(({ gamepad }) => gamepad?.axes[2] ?? 0);
    if (sticks.every((aside) => Math.abs(aside) < LET_GO)) this.turned = false;
    const aside = sticks.find((pushed) => Math.abs(pushed) > PUSHED);
    if (this.turned || aside === undefined) return;
    this.turned = true;
    this.view.eye.heading -= Math.sign(aside) * TURN_RAD;
    this.room.rotation.y = this.view.eye.heading;
  }

  private leave(): void {
    const { renderer, scene, camera } = this.view;
    renderer.setAnimationLoop(null);
    renderer.xr.enabled = false;
    this.aiming = undefined;
    scene.remove(this.room, this.target);
    this.room.remove(camera);
    this.view.ask();
  }
}
