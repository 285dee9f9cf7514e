/** Corners with what belongs to each, that grows as edges are split. */
export interface GrowingMesh {
  positions: number[];
  normals: number[];
  uvs: number[];
  indices: number[];
}

const MOST_PASSES = 8;

/** Splits edges that are longer than so much at their middles, again and again; what shares an edge shares its middle, so that no gap opens. */
export function subdivide(mesh: GrowingMesh, longestM: number): void {
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const middles = new Map<number, number>();
    const count = mesh.positions.length / 3;
    const middleOf = (a: number, b: number): number => {
      const { positions: p } = mesh;
      if (Math.hypot(p[a * 3]! - p[b * 3]!, p[a * 3 + 1]! - p[b * 3 + 1]!, p[a * 3 + 2]! - p[b * 3 + 2]!) <= longestM) return -1;
      const key = Math.min(a, b) * count + Math.max(a, b);
      let middle = middles.get(key);
      if (middle === undefined) {
        middle = mesh.positions.length / 3;
        middles.set(key, middle);
        for (const [list, size] of [[mesh.positions, 3], [mesh.normals, 3], [mesh.uvs, 2]] as const)
          for (let k = 0; k < size; k++) list.push((list[a * size + k]! + list[b * size + k]!) / 2);
      } // prettier-ignore
      return middle;
    };
    const indices: number[] = [];
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const corners = [mesh.indices[t]!, mesh.indices[t + 1]!, mesh.indices[t + 2]!] as const;
      const middle = [0, 1, 2].map((k) => middleOf(corners[k]!, corners[(k + 1) % 3]!)) as [number, number, number];
      const split = middle.filter((m) => m >= 0).length;
      if (split === 0) indices.push(...corners);
      else if (split === 3) {
        const [a, b, c] = corners;
        const [ab, bc, ca] = middle;
        indices.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca);
      } else {
        // Turned so that the first edge is split, and where two are, the last is not.
        let first = middle.findIndex((m) => m >= 0);
        if (split === 2 && middle[(first + 1) % 3]! < 0) first = (first + 2) % 3;
        const [a, b, c] = [corners[first]!, corners[(first + 1) % 3]!, corners[(first + 2) % 3]!];
        const [ab, bc] = [middle[first]!, middle[(first + 1) % 3]!];
        if (split === 1) indices.push(a, ab, c, ab, b, c);
        else indices.push(a, ab, c, ab, bc, c, ab, b, bc);
      }
    }
    mesh.indices = indices;
    if (middles.size === 0) return;
  }
}
