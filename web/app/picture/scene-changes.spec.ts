import { describe, expect, it } from 'vitest';
import { FINISHES } from '../../../core/finish/library';
import { translation } from '../../../core/geometry/mat4';
import type { SceneInstance } from '../../../core/scene/scene';
import { SceneReceiver, SceneSender } from './scene-changes';

const part = (element: string, x: number, finish = FINISHES[0]!): SceneInstance => ({
  source: 's', element, part: 0, material: 'm', mesh: `mesh of ${element}`, transform: translation(x, 0, 0), finish, emissionScale: x, lens: x > 2 ? x : 0, class: x > 3 ? 'Wall' : 'Slab', layer: `L${String(x % 2)}`,
}); // prettier-ignore
let number = 0;
const scene = (...instances: SceneInstance[]) => ({ number: ++number, instances, lamps: [] });
const seen = (receiver: SceneReceiver, sender: SceneSender, ...instances: SceneInstance[]) =>
  receiver.take(structuredClone(sender.changeTo(scene(...instances))));

describe('a scene told by its changes', () => {
  it('is the same at the other end after parts have come, moved and gone', () => {
    const [sender, receiver] = [new SceneSender(), new SceneReceiver()];
    const [a, b, c] = [part('a', 1), part('b', 2), part('c', 3, FINISHES[1])];
    seen(receiver, sender, a, b);
    seen(receiver, sender, b, c);
    const moved = part('b', 7);
    const { instances } = seen(receiver, sender, moved, c);
    const plain = ({ mesh, transform, finish, emissionScale, lens, variation, class: its, layer }: SceneInstance) => ({
      class: its,
      layer,
      mesh,
      transform,
      finish,
      emissionScale,
      lens,
      variation,
    });
    expect(instances).toHaveLength(2);
    expect(instances).toEqual(expect.arrayContaining([plain(moved), plain(c)]));
  });

  it('keeps the places of parts that only have something else, and closes up where parts have gone', () => {
    const [sender, receiver] = [new SceneSender(), new SceneReceiver()];
    const [a, b, c] = [part('a', 1), part('b', 2), part('c', 3)];
    const order = (...instances: SceneInstance[]) =>
      seen(receiver, sender, ...instances)
        .instances.map((i) => i.mesh.slice(-1))
        .join('');
    expect(order(a, b, c)).toBe('abc');
    const assigned = { ...b, finish: FINISHES[2]! };
    expect(order(a, assigned, c)).toBe('abc');
    expect(order(assigned, c)).toBe('bc');
    expect(order(assigned, c, part('d', 5))).toBe('bcd');
    expect(order(part('e', 1), c, part('d', 6))).toHaveLength(3);
  });

  it('sends nothing twice, and one finish stays one', () => {
    const [sender, receiver] = [new SceneSender(), new SceneReceiver()];
    const parts = Array.from({ length: 50 }, (_, i) => part(`p${String(i)}`, i));
    expect(sender.changeTo(scene(...parts)).added).toHaveLength(50);
    const again = sender.changeTo(scene(...parts, part('new', 1)));
    expect([...again.added]).toEqual([50]);
    expect(again.removed).toHaveLength(0);
    const later = part('later', 4);
    const step = { from: number, removed: [parts[3]!], added: [later] };
    const stepped = sender.changeTo({ number: ++number, step, instances: [], lamps: [] });
    expect([...stepped.removed, ...stepped.added]).toEqual([3, 51]);
    const fresh = new SceneSender();
    seen(receiver, fresh, parts[0]!);
    expect(new Set(seen(receiver, fresh, parts[0]!, part('later', 1)).instances.map((i) => i.finish)).size).toBe(1);
  });
});
