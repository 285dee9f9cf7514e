import { expect, it } from 'vitest';
import { along, webOfForm, writeIes } from '../lamp/closed-forms';
import { frozenText, thawed } from './frozen-scene';
import { lampOf } from './lamps';
import { PLAIN_FINISH } from '../finish/finish';
import { IDENTITY } from '../geometry/mat4';
import type { Scene, SceneInstance } from './scene';

it('a scene that is kept as text comes back with the light of its lamps, each web written once', () => {
  const text = writeIes(webOfForm({ name: '', share: along(1, 4), isRound: false, inputW: 0, fluxLm: 900, openingM: [0, 0, 0] }));
  const luminaire = (id: string) => ({
    id, name: id, circuit: '', element: null, position: [0, 0, 2], direction: [0, 0, -1], fluxLm: 500, colourTemperatureK: 3000, beamDeg: 90, dim: 1,
  }) as const; // prettier-ignore
  const lamps = ['a', 'b', 'c'].map((id) =>
    lampOf('s', { ...luminaire(id), position: [0, 0, 2], direction: [0, 0, -1] }, 1, id === 'c' ? undefined : text),
  );
  const scene: Scene = { instances: [], lamps };
  const kept = frozenText({ scene });
  expect(thawed(kept).scene).toEqual(scene);
  expect(kept.match(/"grid"/g)).toHaveLength(1);
});

it('further scenes come back whole, though what they share with the first is written once', () => {
  const instance = (element: string, emissionScale: number) =>
    ({ source: 's', element, part: 0, material: 'm', mesh: 'h', transform: IDENTITY, finish: PLAIN_FINISH, emissionScale, lens: false }) as SceneInstance; // prettier-ignore
  const scene: Scene = { instances: [instance('a', 1), instance('b', 0), instance('c', 0)], lamps: [] };
  const other: Scene = { instances: [instance('c', 0), instance('b', 0.5)], lamps: [] };
  const text = frozenText({ scene, along: { scenes: [{ scene }, { scene: other }] } });
  expect(thawed(text)).toEqual({ scene, along: { scenes: [{ scene }, { scene: other }] } });
  expect(text.match(/"mesh":/g)).toHaveLength(4);
});
