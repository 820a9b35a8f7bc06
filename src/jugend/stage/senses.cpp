// Every question of an actor that is sensed, asked of the surroundings and told to the sketch.
#include <algorithm>
#include <jugend/stage/senses.hpp>

namespace jugend {

std::optional<Hit> Sensed::cast(const Ray& ray, const Filter& filter) const {
  const auto hit = Answered::cast(ray, filter);
  return sketch_.ray(ray, hit), hit;
}

void Sensed::cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const {
  Answered::cast_all(rays, filter, hits);
  for (std::size_t i = 0; i < rays.size(); ++i) sketch_.ray(rays[i], hits[i]);
}

std::optional<Hit> Sensed::sweep(const Convex& mover, const Vec3& motion, const Filter& filter) const {
  const auto hit = Answered::sweep(mover, motion, filter);
  return sketch_.sweep(mover, motion, hit), hit;
}

std::size_t Sensed::overlaps(const Convex& body, double margin, std::span<Overlap> out, const Filter& filter) const {
  const std::size_t count = Answered::overlaps(body, margin, out, filter);
  return sketch_.near(body, margin, out.first(std::min(count, out.size()))), count;
}

void Sensed::push(BodyId body, const Vec3& impulse, const Vec3& at) { sketch_.force(body, at, impulse / dt_); }
void Sensed::force(BodyId body, const Vec3& force, const Vec3& at) { sketch_.force(body, at, force); }

}  // namespace jugend
