// The anchor of the kernel bench: Embree, one thread, one ray a call, its own defaults. Reads the same mesh and rays;
// answers a command a line: "camera", "bounce" or "shadow" with milliseconds and hits, "build" with milliseconds.
#include <embree3/rtcore.h>
#include <pmmintrin.h>
#include <xmmintrin.h>

#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <map>
#include <string>
#include <vector>

using Clock = std::chrono::steady_clock;
static double since(Clock::time_point start) { return std::chrono::duration<double, std::milli>(Clock::now() - start).count(); }

static std::vector<char> read(const std::string& path) {
  FILE* file = fopen(path.c_str(), "rb");
  if (!file) {
    perror(path.c_str());
    exit(1);
  }
  fseek(file, 0, SEEK_END);
  std::vector<char> bytes(ftell(file));
  rewind(file);
  if (fread(bytes.data(), 1, bytes.size(), file) != bytes.size()) exit(1);
  fclose(file);
  return bytes;
}

int main(int, char** argv) {
  _MM_SET_FLUSH_ZERO_MODE(_MM_FLUSH_ZERO_ON);
  _MM_SET_DENORMALS_ZERO_MODE(_MM_DENORMALS_ZERO_ON);
  const std::string folder = argv[1];
  const auto positions = read(folder + "bench-positions.bin"), indices = read(folder + "bench-indices.bin");
  std::map<std::string, std::vector<char>> sets;
  for (const char* name : {"camera", "bounce", "shadow"}) sets[name] = read(folder + "bench-" + name + ".bin");
  RTCDevice device = rtcNewDevice("threads=1");
  RTCScene scene = nullptr;
  auto build = [&] {
    if (scene) rtcReleaseScene(scene);
    scene = rtcNewScene(device);
    RTCGeometry mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    memcpy(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, positions.size() / 12), positions.data(), positions.size());
    memcpy(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, indices.size() / 12), indices.data(), indices.size());
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(scene, mesh);
    rtcReleaseGeometry(mesh);
    rtcCommitScene(scene);
  };
  build();
  char line[64];
  while (fgets(line, sizeof line, stdin)) {
    line[strcspn(line, "\n")] = 0;
    const std::string command = line;
    const auto start = Clock::now();
    long met = 0;
    if (command == "build") {
      build();
    } else {
      const float* r = (const float*)sets[command].data();
      const size_t count = sets[command].size() / 32;
      RTCIntersectContext context;
      rtcInitIntersectContext(&context);
      if (command == "camera") context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
      for (size_t i = 0; i < count; i++, r += 8) {
        RTCRayHit h;
        h.ray.org_x = r[0]; h.ray.org_y = r[1]; h.ray.org_z = r[2]; h.ray.tnear = r[3];
        h.ray.dir_x = r[4]; h.ray.dir_y = r[5]; h.ray.dir_z = r[6]; h.ray.tfar = r[7];
        h.ray.time = 0; h.ray.mask = -1; h.ray.flags = 0; h.ray.id = 0;
        h.hit.geomID = h.hit.primID = h.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
        if (command == "shadow") {
          rtcOccluded1(scene, &context, &h.ray);
          met += h.ray.tfar < 0;
        } else {
          rtcIntersect1(scene, &context, &h);
          met += h.hit.geomID != RTC_INVALID_GEOMETRY_ID;
        }
      }
    }
    printf("%f %ld\n", since(start), met);
    fflush(stdout);
  }
}
