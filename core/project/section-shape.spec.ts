import { expect, it } from 'vitest';
import { compose, invert, multiply, rotationZ, translation } from '../geometry/mat4';
import { carriedSection, sectionFrame, sectionOutline } from './section-shape';
import { planeThrough, type Section } from './sections';

const box: Section['cut'] = { kind: 'box', middle: [1, 2, 3], sizeM: [4, 2, 6], turnDeg: 30 };

it('a plane is drawn where it is looked at, and dragged along its normal', () => {
  const cut = planeThrough([0, 0, 1], [0, 0, 1.1]);
  const frame = sectionFrame(cut, [20, 30, 5]);
  expect(frame.slice(12, 15)).toEqual([20, 30, 1.1]);
  for (const segment of sectionOutline(cut, frame).slice(0, 4)) for (const [, , z] of segment) expect(z).toBeCloseTo(1.1, 12);
  expect(carriedSection(cut, frame, translation(0, 0, 0.9))).toMatchObject({ kind: 'plane', normal: [0, 0, 1], offsetM: 2 });
});

it('a plane is turned about where it is held', () => {
  const cut = planeThrough([1, 0, 0], [4, 0, 0]);
  const frame = sectionFrame(cut, [9, 2, 1]);
  const about = multiply(translation(4, 2, 1), multiply(rotationZ(Math.PI / 2), translation(-4, -2, -1)));
  const turned = carriedSection(cut, frame, about);
  if (turned.kind !== 'plane') throw new Error('It is no plane any more.');
  expect(turned.normal[1]).toBeCloseTo(1, 12);
  expect(turned.offsetM).toBeCloseTo(2, 12);
});

it('a box is moved, turned and sized along its own axes, and stays upright', () => {
  const frame = sectionFrame(box, [0, 0, 0]);
  expect(carriedSection(box, frame, translation(1, 1, 1))).toMatchObject({ middle: [2, 3, 4], sizeM: [4, 2, 6] });
  const wider = multiply(frame, multiply(compose([0, 0, 0], [0, 0, 0, 1], [2, 1, 0.5]), invert(frame)!));
  const sized = carriedSection(box, frame, wider);
  if (sized.kind !== 'box') throw new Error('It is no box any more.');
  [8, 2, 3].forEach((size, k) => {
    expect(sized.sizeM[k]).toBeCloseTo(size, 9);
  });
  expect(sized.turnDeg).toBeCloseTo(30, 9);
  expect(sectionOutline(box, frame)).toHaveLength(12);
});
