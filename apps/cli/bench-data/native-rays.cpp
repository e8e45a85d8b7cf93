// The reference of the ray benchmarks: builds a scene, casts first hits and any hits one by one on one thread, and prints three times in ms.
// Input: int32 vertices, triangles, rays; float positions, int32 indices; then twice float ox oy oz from dx dy dz to of each ray.
#include <rtcore.h>

#include <chrono>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <vector>

using Clock = std::chrono::steady_clock;

static double since(Clock::time_point t) { return std::chrono::duration<double, std::milli>(Clock::now() - t).count(); }

template <class T> static std::vector<T> take(FILE *f, size_t n) {
  std::vector<T> out(n);
  if (fread(out.data(), sizeof(T), n, f) != n) exit(1);
  return out;
}

static RTCScene build(RTCDevice device, const std::vector<float> &p, const std::vector<uint32_t> &i) {
  RTCScene scene = rtcNewScene(device);
  rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
  rtcSetSceneBuildQuality(scene, RTC_BUILD_QUALITY_MEDIUM);
  RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  memcpy(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, p.size() / 3), p.data(), p.size() * 4);
  memcpy(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, i.size() / 3), i.data(), i.size() * 4);
  rtcCommitGeometry(g);
  rtcAttachGeometry(scene, g);
  rtcReleaseGeometry(g);
  rtcCommitScene(scene);
  return scene;
}

static void put(RTCRay &r, const float *v) {
  r.org_x = v[0];
  r.org_y = v[1];
  r.org_z = v[2];
  r.tnear = v[3];
  r.dir_x = v[4];
  r.dir_y = v[5];
  r.dir_z = v[6];
  r.tfar = v[7];
  r.time = 0;
  r.mask = 0xffffffff;
  r.id = 0;
  r.flags = 0;
}

int main(int, char **args) {
  FILE *f = fopen(args[1], "rb");
  if (!f) return 1;
  const auto head = take<int32_t>(f, 3);
  const auto positions = take<float>(f, size_t(head[0]) * 3);
  const auto indices = take<uint32_t>(f, size_t(head[1]) * 3);
  const auto bake = take<float>(f, size_t(head[2]) * 8);
  const auto ao = take<float>(f, size_t(head[2]) * 8);
  RTCDevice device = rtcNewDevice("threads=1,set_affinity=0");
  rtcReleaseScene(build(device, positions, indices));
  auto t = Clock::now();
  RTCScene scene = build(device, positions, indices);
  const double built = since(t);
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  size_t met = 0;
  double times[2] = {0, 0};
  // Once to warm up.
  for (int round = 0; round < 2; round++) {
    t = Clock::now();
    for (int32_t i = 0; i < head[2]; i++) {
      RTCRayHit r;
      put(r.ray, &bake[size_t(i) * 8]);
      r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
      r.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
      rtcIntersect1(scene, &context, &r);
      met += r.hit.geomID != RTC_INVALID_GEOMETRY_ID;
    }
    times[0] = since(t);
    t = Clock::now();
    for (int32_t i = 0; i < head[2]; i++) {
      RTCRay r;
      put(r, &ao[size_t(i) * 8]);
      rtcOccluded1(scene, &context, &r);
      met += r.tfar < 0;
    }
    times[1] = since(t);
  }
  if (met == 0) return 1;
  printf("%f %f %f\n", built, times[0], times[1]);
  return 0;
}
