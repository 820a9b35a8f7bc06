// What a ray and a sweep cost, and a ray beside that of a general ray-tracing kernel.
#include <benchmark/benchmark.h>
#include <embree3/rtcore.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <jugend/shape/shape.hpp>
#include <random>

#include "terrain.hpp"

namespace jugend::bench {
namespace {

/// Groups of four short downward rays 1.6 m by 2.6 m apart, as a cart casts them, at random places.
std::vector<Ray> cart_rays(std::uint32_t cells, int groups) {
  std::mt19937 random(1);
  const auto uniform = [&](double low, double high) { return low + (high - low) * (random() / 4294967296.0); };
  std::vector<Ray> rays;
  for (int g = 0; g < groups; ++g) {
    const double x = uniform(1, cells - 3.0), z = uniform(1, cells - 4.0);
    for (int wheel = 0; wheel < 4; ++wheel) {
      const double wx = x + (wheel & 1) * 1.6, wz = z + (wheel >> 1) * 2.6;
      rays.push_back({{wx, terrain_height(wx, wz) + 0.6, wz}, {0, -1, 0}, 1.2});
    }
  }
  return rays;
}

void mesh_ray(benchmark::State& state) {
  const std::uint32_t cells = cells_for(state.range(0));
  const Mesh mesh(terrain(cells));
  const auto rays = cart_rays(cells, 20000);
  std::size_t i = 0;
  for (auto _ : state) {
    benchmark::DoNotOptimize(mesh.cast(rays[i]));
    if (++i == rays.size()) i = 0;
  }
}
BENCHMARK(mesh_ray)->Arg(2000)->Arg(20000)->Arg(200000);

void height_field_ray(benchmark::State& state) {
  const std::uint32_t cells = cells_for(state.range(0));
  const auto field = terrain_field(cells);
  const auto rays = cart_rays(cells, 20000);
  std::size_t i = 0;
  for (auto _ : state) {
    benchmark::DoNotOptimize(field->cast(rays[i]));
    if (++i == rays.size()) i = 0;
  }
}
BENCHMARK(height_field_ray)->Arg(200000);

template <class Ground>
void sweep_over(benchmark::State& state, const Ground& ground, std::uint32_t cells) {
  const auto rays = cart_rays(cells, 20000);
  const Shape shape = ground;
  std::size_t i = 0;
  for (auto _ : state) {
    const PlacedConvex body(Capsule{0.3, 0.5}, Pose{rays[i].origin + Vec3{0, 0.5, 0}, {}});
    benchmark::DoNotOptimize(sweep(body.view(), Vec3{0.1, -0.4, 0}, shape, Pose{}));
    if (++i == rays.size()) i = 0;
  }
}
void mesh_sweep(benchmark::State& state) {
  const std::uint32_t cells = cells_for(state.range(0));
  sweep_over(state, MeshRef(std::make_shared<Mesh>(terrain(cells))), cells);
}
BENCHMARK(mesh_sweep)->Arg(2000)->Arg(20000)->Arg(200000);
void height_field_sweep(benchmark::State& state) {
  const std::uint32_t cells = cells_for(state.range(0));
  sweep_over(state, HeightFieldRef(terrain_field(cells)), cells);
}
BENCHMARK(height_field_sweep)->Arg(200000);

void mesh_build(benchmark::State& state) {
  const MeshData data = terrain(cells_for(state.range(0)));
  for (auto _ : state) benchmark::DoNotOptimize(Mesh(data));
  state.SetItemsProcessed(state.iterations() * state.range(0));
}
BENCHMARK(mesh_build)->Arg(2000)->Arg(20000)->Arg(200000)->Unit(benchmark::kMillisecond);

/// The other kernel on the same terrain.
class Kernel {
 public:
  explicit Kernel(const MeshData& data) {
    for (const Vec3& v : data.vertices) {
      for (int k = 0; k < 3; ++k) vertices_.push_back(static_cast<float>(v[k]));
    }
    for (const auto& t : data.triangles) indices_.insert(indices_.end(), t.begin(), t.end());
    RTCGeometry geometry = rtcNewGeometry(device_, RTC_GEOMETRY_TYPE_TRIANGLE);
    rtcSetSharedGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, vertices_.data(), 0, 12,
                               vertices_.size() / 3);
    rtcSetSharedGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, indices_.data(), 0, 12,
                               indices_.size() / 3);
    rtcCommitGeometry(geometry);
    rtcAttachGeometry(scene_, geometry);
    rtcReleaseGeometry(geometry);
    rtcCommitScene(scene_);
  }
  ~Kernel() {
    rtcReleaseScene(scene_);
    rtcReleaseDevice(device_);
  }
  Kernel(const Kernel&) = delete;
  Kernel& operator=(const Kernel&) = delete;

  float cast(const Ray& ray) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit hit{};
    hit.ray.org_x = static_cast<float>(ray.origin.x), hit.ray.org_y = static_cast<float>(ray.origin.y),
    hit.ray.org_z = static_cast<float>(ray.origin.z);
    hit.ray.dir_x = static_cast<float>(ray.direction.x), hit.ray.dir_y = static_cast<float>(ray.direction.y),
    hit.ray.dir_z = static_cast<float>(ray.direction.z);
    hit.ray.tfar = static_cast<float>(ray.length);
    hit.ray.mask = ~0u;
    hit.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    hit.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(scene_, &context, &hit);
    return hit.hit.geomID == RTC_INVALID_GEOMETRY_ID ? -1 : hit.ray.tfar;
  }

 private:
  RTCDevice device_ = rtcNewDevice(nullptr);
  RTCScene scene_ = rtcNewScene(device_);
  std::vector<float> vertices_;
  std::vector<std::uint32_t> indices_;
};

template <class Cast>
double nanoseconds_a_ray(const std::vector<Ray>& rays, Cast&& cast) {
  const auto start = std::chrono::steady_clock::now();
  for (const Ray& ray : rays) benchmark::DoNotOptimize(cast(ray));
  const std::chrono::duration<double, std::nano> spent = std::chrono::steady_clock::now() - start;
  return spent.count() / static_cast<double>(rays.size());
}

}  // namespace

/// Each round times all three one after the other; the median of the rounds' ratios is stated, so that
/// a neighbour's load falls on all alike.
void report_ray_ratios() {
  const std::uint32_t cells = cells_for(200000);
  const MeshData data = terrain(cells);
  const Mesh mesh(data);
  const auto field = terrain_field(cells);
  const Kernel kernel(data);
  const auto rays = cart_rays(cells, 25000);
  int differing = 0;
  for (const Ray& ray : rays) {
    const auto ours = mesh.cast(ray);
    const float theirs = kernel.cast(ray);
    differing +=
        ours.has_value() != (theirs >= 0) || (ours && std::abs(ours->distance - static_cast<double>(theirs)) > 1e-4);
  }
  std::vector<double> by_mesh, by_field;
  double mesh_ns = 1e300, field_ns = 1e300, kernel_ns = 1e300;
  for (int round = 0; round < 21; ++round) {
    const double k = nanoseconds_a_ray(rays, [&](const Ray& r) { return kernel.cast(r); });
    const double m = nanoseconds_a_ray(rays, [&](const Ray& r) { return mesh.cast(r); });
    const double f = nanoseconds_a_ray(rays, [&](const Ray& r) { return field->cast(r); });
    by_mesh.push_back(m / k), by_field.push_back(f / k);
    mesh_ns = std::min(mesh_ns, m), field_ns = std::min(field_ns, f), kernel_ns = std::min(kernel_ns, k);
  }
  std::ranges::nth_element(by_mesh, by_mesh.begin() + 10);
  std::ranges::nth_element(by_field, by_field.begin() + 10);
  fmt::print("Short downward rays on {} triangles, one thread, {} rays, {} answers differ:\n", data.triangles.size(),
             rays.size(), differing);
  fmt::print("  mesh ray / Embree ray          {:.2f}   (at most 1.00; fastest {:.0f} ns and {:.0f} ns)\n", by_mesh[10],
             mesh_ns, kernel_ns);
  fmt::print("  height-field ray / Embree ray  {:.2f}   (at most 0.25; fastest {:.0f} ns)\n", by_field[10], field_ns);
}

}  // namespace jugend::bench
