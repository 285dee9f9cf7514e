import * as THREE from 'three';
import { exposureScale } from '../core/image/tone';
import type { SceneLamp } from '../core/scene/scene';
import { LampLights } from '../web/app/picture/lamp-lights';
import { lightByWebs } from '../web/app/picture/lamp-webs';

/** A page with nothing on it but a matt floor, 8 m wide, white, under one lamp of the draft, seen straight from above. */

const SIDE = 65;
const WIDE_M = 8;

/** Light that the floor sheds along its middle, from its left edge to its right; cd/m2. */
export function drawnFloor(lamp: SceneLamp): number[] {
  const renderer = new THREE.WebGLRenderer();
  const scene = new THREE.Scene();
  const material = new THREE.MeshLambertMaterial({ color: 0xffffff });
  material.onBeforeCompile = lightByWebs;
  scene.add(new THREE.Mesh(new THREE.PlaneGeometry(WIDE_M, WIDE_M), material));
  const ev100 = 5;
  const lights = new LampLights(scene);
  lights.set([lamp], ev100);
  const half = WIDE_M / 2;
  const camera = new THREE.OrthographicCamera(-half, half, half, -half, 0.1, 20);
  camera.position.set(0, 0, 10);
  const target = new THREE.WebGLRenderTarget(SIDE, SIDE, { type: THREE.FloatType });
  renderer.setRenderTarget(target);
  renderer.render(scene, camera);
  const pixels = new Float32Array(SIDE * 4);
  renderer.readRenderTargetPixels(target, 0, (SIDE - 1) / 2, SIDE, 1, pixels);
  return Array.from({ length: SIDE }, (_, x) => pixels[x * 4 + 1]! / exposureScale(ev100));
}
