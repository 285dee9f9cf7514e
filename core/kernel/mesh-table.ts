import type { PreparedMesh } from '../geometry/prepare-mesh';
import { edgeNormals } from '../geometry/edge-normals';
import { isClosed } from '../geometry/is-closed';
import { meshBounds, type Bounds } from '../geometry/mesh';
import * as L from './assembly/layout';
import type { KernelExports } from './kernel';
import type { KernelMemory } from './memory';

export interface PlacedMesh {
  pointer: number;
  blocks: number[];
  bounds: Bounds;
  triangles: number;
  mesh: PreparedMesh;
  knowsEdges: boolean;
  /** Whether it bounds a body; undefined: nobody has asked. */
  closed?: boolean;
}

/** Edges of larger meshes stay sharp: it is 36 bytes a triangle, and nobody models edges to be rounded so finely. */
const MOST_ROUNDED = 200_000;

/** Meshes in the kernel's memory, each with the tree over its triangles. */
export class MeshTable {
  private readonly meshes = new Map<string, PlacedMesh>();

  constructor(
    private readonly memory: KernelMemory,
    private readonly kernel: KernelExports,
  ) {}

  get(hash: string): PlacedMesh {
    return this.meshes.get(hash)!;
  }

  /** Whether a mesh stands in memory, or can be placed. */
  place(hash: string, meshOf: (hash: string) => PreparedMesh | undefined): boolean {
    if (this.meshes.has(hash)) return true;
    const mesh = meshOf(hash);
    const triangles = mesh ? mesh.indices.length / 3 : 0;
    if (!mesh || triangles === 0) return false;
    const m = this.memory;
    const temporary = [mesh.positions, mesh.indices].map((data) => {
      const at = m.room(data.byteLength);
      m.write(at, data);
      return at;
    });
    const references = this.kernel.referenceCapacity(triangles);
    const boundsScratch = m.room(references * L.BOUNDS_SIZE);
    const scratch = m.room(this.kernel.bvhScratchSize(references));
    const nodesRoom = m.room(references * L.NODE_SIZE);
    const packetsRoom = m.room(references * L.PACKET_SIZE);
    const nodeCount = this.kernel.buildMesh(temporary[0]!, temporary[1]!, triangles, boundsScratch, nodesRoom, packetsRoom, scratch);
    const packetCount = this.kernel.builtLeafCount();
    const keep = (from: number, bytes: number) => {
      const at = m.room(bytes);
      new Uint8Array(m.memory.buffer).copyWithin(at, from, from + bytes);
      return at;
    };
    const nodes = keep(nodesRoom, nodeCount * L.NODE_SIZE);
    const packets = keep(packetsRoom, packetCount * L.PACKET_SIZE);
    for (const block of [boundsScratch, scratch, nodesRoom, packetsRoom, temporary[0]!]) m.release(block);
    const uvs = [mesh.uvs, ...(mesh.furtherUvs ?? [])];
    const rest = [[mesh.normals], uvs].map((arrays) => {
      const size = arrays[0]!.byteLength;
      const at = m.room(size * arrays.length);
      for (const [i, data] of arrays.entries()) m.write(at + i * size, data);
      return at;
    });
    const pointer = m.allocate(L.MESH_SIZE);
    const view = m.view();
    [nodes, packets, rest[0]!, rest[1]!, temporary[1]!].forEach((at, i) => {
      view.setUint32(pointer + i * 4, at, true);
    });
    view.setUint32(pointer + L.MESH_UV_BYTES, mesh.uvs.byteLength, true);
    view.setUint32(pointer + L.MESH_UV_SETS, uvs.length, true);
    this.meshes.set(hash, {
      pointer,
      blocks: [nodes, packets, ...rest, temporary[1]!, pointer],
      bounds: meshBounds(mesh.positions),
      triangles,
      mesh,
      knowsEdges: false,
    });
    return true;
  }

  /** Learns what lies beyond the edges of a mesh that stands in memory, once. */
  learnEdges(hash: string): void {
    const placed = this.meshes.get(hash)!;
    if (placed.knowsEdges || placed.triangles > MOST_ROUNDED) return;
    placed.knowsEdges = true;
    const edges = edgeNormals(placed.mesh);
    const at = this.memory.room(edges.byteLength);
    this.memory.write(at, edges);
    placed.blocks.push(at);
    this.memory.view().setUint32(placed.pointer + L.MESH_EDGES, at, true);
  }

  isClosed(hash: string): boolean {
    const placed = this.get(hash);
    return (placed.closed ??= placed.triangles <= MOST_ROUNDED && isClosed(placed.mesh));
  }

  /** Drops those that are not used. */
  keepOnly(used: ReadonlySet<string>): void {
    for (const [hash, placed] of this.meshes)
      if (!used.has(hash)) {
        for (const block of placed.blocks) this.memory.release(block);
        this.meshes.delete(hash);
      }
  }
}
