import type { IfcAPI } from 'web-ifc';

/** Milliseconds of the IFC parser by itself: everything tessellated and copied out, nothing made of it. */
export function parserAlone(api: IfcAPI, bytes: Uint8Array): number {
  const start = performance.now();
  const id = api.OpenModel(bytes);
  api.StreamAllMeshes(id, (flat) => {
    for (let i = 0; i < flat.geometries.size(); i++) {
      const geometry = api.GetGeometry(id, flat.geometries.get(i).geometryExpressID);
      api.GetVertexArray(geometry.GetVertexData(), geometry.GetVertexDataSize());
      api.GetIndexArray(geometry.GetIndexData(), geometry.GetIndexDataSize());
      geometry.delete();
    }
  });
  api.CloseModel(id);
  return performance.now() - start;
}
