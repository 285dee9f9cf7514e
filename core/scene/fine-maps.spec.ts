import { expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { prepareMesh } from '../geometry/prepare-mesh';
import { compose } from '../geometry/mat4';
import { box, matt } from '../kernel/testing';
import { closelySeenMaps } from './fine-maps';

it('maps are wanted finer where a pixel shows less than a texel, the closest first, and not behind the camera', () => {
  const crate = prepareMesh(box([-0.5, -0.5, 0], [0.5, 0.5, 1]));
  const at = (y: number, maps: string, widthM = 1.024, turn = 0) => ({
    mesh: 'crate',
    transform: compose([0, y, 0], [0, 0, Math.sin(turn / 2), Math.cos(turn / 2)], [1, 1, 1]),
    finish: matt(0.5, { maps, widthM }),
    emissionScale: 1,
    lens: false,
  });
  // 18 mm of a frame 36 mm wide: a picture of 1000 pixels is 2 m wide at 1 m, a pixel is 2 mm there. A texel is 1 mm.
  const frame = cameraFrame({ position: [0, 0, 0.5], target: [0, 1, 0.5], focalMm: 18 }, 16 / 9);
  const wanted = (...instances: ReturnType<typeof at>[]) => closelySeenMaps(instances, () => crate, frame, 1000);
  expect(wanted(at(0.95, 'brick'))).toEqual(['brick']);
  expect(wanted(at(1.05, 'brick'))).toEqual([]);
  // A corner comes nearer than a side: 0.707 m from the middle.
  expect(wanted(at(1.15, 'brick', 1.024, Math.PI / 4))).toEqual(['brick']);
  expect(wanted(at(-0.95, 'brick'))).toEqual([]);
  expect(wanted(at(0.9, 'brick'), at(0.7, 'marble'), at(4, 'oak-boards'))).toEqual(['marble', 'brick']);
  // Own map sets have no other size.
  expect(wanted(at(0.7, 'set:abc'))).toEqual([]);
  expect(closelySeenMaps([at(0.7, 'brick')], () => undefined, frame, 1000)).toEqual([]);
});
