// Single-ray reference for the kernel bench: reads triangles and rays, traces them with Embree on one thread, prints seconds and hits.
// File: u32 triangles, u32 rays, then 9 floats a triangle, then 6 floats a ray.
#include <embree3/rtcore.h>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <limits>
#include <vector>

int main(int argc, char **argv) {
  FILE *file = fopen(argv[1], "rb");
  unsigned counts[2];
  if (!file || fread(counts, 4, 2, file) != 2) return 1;
  std::vector<float> triangles(counts[0] * 9ull), rays(counts[1] * 6ull);
  if (fread(triangles.data(), 4, triangles.size(), file) != triangles.size() || fread(rays.data(), 4, rays.size(), file) != rays.size()) return 1;
  RTCDevice device = rtcNewDevice("threads=1");
  RTCScene scene = rtcNewScene(device);
  RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  float *vertices = (float *)rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, counts[0] * 3ull);
  unsigned *indices = (unsigned *)rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, counts[0]);
  for (size_t i = 0; i < triangles.size(); i++) vertices[i] = triangles[i];
  for (unsigned i = 0; i < counts[0] * 3; i++) indices[i] = i;
  rtcCommitGeometry(geometry);
  rtcAttachGeometry(scene, geometry);
  rtcCommitScene(scene);
  double best = 1e9;
  unsigned hits = 0;
  for (int run = 0; run < 5; run++) {
    hits = 0;
    auto start = std::chrono::steady_clock::now();
    for (unsigned i = 0; i < counts[1]; i++) {
      RTCIntersectContext context;
      rtcInitIntersectContext(&context);
      RTCRayHit r;
      const float *q = &rays[i * 6ull];
      r.ray.org_x = q[0]; r.ray.org_y = q[1]; r.ray.org_z = q[2];
      r.ray.dir_x = q[3]; r.ray.dir_y = q[4]; r.ray.dir_z = q[5];
      r.ray.tnear = 0; r.ray.tfar = std::numeric_limits<float>::infinity(); r.ray.time = 0; r.ray.mask = -1; r.ray.flags = 0;
      r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
      rtcIntersect1(scene, &context, &r);
      if (r.hit.geomID != RTC_INVALID_GEOMETRY_ID) hits++;
    }
    double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    if (seconds < best) best = seconds;
  }
  printf("%f %u\n", best, hits);
}
