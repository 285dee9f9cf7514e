import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer/decoder';
import { expect, it } from 'vitest';
import { IDENTITY } from '../geometry/mat4';
import { prepareMesh } from '../geometry/prepare-mesh';
import { matt, quad } from '../kernel/testing';
import { image } from '../kernel/test-face';
import { bakedModel } from '../viewing/baked-surfaces';
import { viewerModel } from './viewer-model';

it('a surface whose metal and glow are told by pictures has their mean, not all of both', async () => {
  const mesh = prepareMesh(quad([-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]));
  const finish = { ...matt(0.5), maps: 'told', metalness: 1, emissionCdM2: 1000, emissionColour: [1, 1, 1] as [number, number, number] };
  const part = { source: 's', element: 'e', part: 0, material: 'm', mesh: 'q', transform: IDENTITY, finish, emissionScale: 1, lens: false };
  const maps = {
    base: image(1, 1, [[200, 200, 200, 255]]),
    surface: undefined,
    packedFactors: image(4, 1, [[255, 255, 255, 255], [0, 255, 255, 255], [0, 255, 255, 255], [0, 255, 255, 255]]),
    emission: image(2, 1, [[255, 255, 255, 255], [0, 0, 0, 255]]),
  }; // prettier-ignore
  const model = bakedModel([[[part]]], { mesh: () => mesh });
  const light = new Float32Array(model.points.length / 2).fill(1000);
  const bytes = await viewerModel(model, [{ light, unit: 0.001 }], { maps: () => maps }, () => Promise.resolve(new Uint8Array(16)));
  await MeshoptDecoder.ready;
  const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ 'meshopt.decoder': MeshoptDecoder }).readBinary(bytes); // prettier-ignore
  expect(document.getRoot().listMaterials()[0]!.getMetallicFactor()).toBeCloseTo(0.25, 5);
  const told = document.getRoot().listNodes().map((node) => node.getExtras()['emission'] as { colour: number[] } | undefined).find((each) => each); // prettier-ignore
  for (const c of told!.colour) expect(c).toBeCloseTo(500, 0);
});
