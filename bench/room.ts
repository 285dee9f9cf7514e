import { prepareMesh, type PreparedMesh } from '../core/geometry/prepare-mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import { random } from '../core/random';

/** A furnished room of about 280,000 triangles: shell, spheres, bars and boxes of all sizes. */
export function room(): PreparedMesh {
  const r = random(3);
  const b = new MeshBuilder();
  b.box([-6, -4, -0.2], [6, 4, 0])
    .box([-6, -4, 3], [6, 4, 3.2])
    .box([-6.2, -4, 0], [-6, 4, 3])
    .box([6, -4, 0], [6.2, 4, 3])
    .box([-6, -4.2, 0], [6, -4, 3])
    .box([-6, 4, 0], [6, 4.2, 3]);
  const sphere = (radius: number) =>
    Array.from({ length: 25 }, (_, i) => [Math.sin((i / 24) * Math.PI) * radius, -Math.cos((i / 24) * Math.PI) * radius] as const);
  for (let i = 0; i < 100; i++) b.revolve([r() * 11 - 5.5, r() * 7 - 3.5, r() * 2.6 + 0.2], sphere(0.05 + r() * 0.3), 48);
  for (let i = 0; i < 600; i++) {
    const [x, y] = [r() * 11 - 5.5, r() * 7 - 3.5];
    b.tube([[x, y, 0], [x + r() - 0.5, y + r() - 0.5, 1 + r() * 2]], 0.005 + r() * 0.02, 24); // prettier-ignore
  }
  for (let i = 0; i < 700; i++) {
    const p = [r() * 11 - 5.5, r() * 7 - 3.5, r() * 2.5] as const;
    b.box(p, [p[0] + 0.05 + r() * 0.4, p[1] + 0.05 + r() * 0.4, p[2] + 0.05 + r() * 0.3]);
  }
  return prepareMesh(b.build());
}
