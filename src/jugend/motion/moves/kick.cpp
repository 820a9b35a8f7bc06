#include <algorithm>
#include <cmath>
#include <jugend/motion/moves/kick.hpp>

namespace jugend {

Vec3 kick_impulse(const BodyFacts& body, const Vec3& impulse, const Vec3& at, const Vec3& up, double speed_cap) {
  if (body.mass <= 0) return {};
  const Vec3 rise = up * dot(impulse, up), level = impulse - rise;
  const auto within = [&](const Vec3& part, double cap) {
    const double size = norm(part);
    const double change = size * body.inverse_mass_at(at, normalised(part));  // m/s, of the place; the centre's is less
    return change > cap ? part * (cap / change) : part;
  };
  const Vec3 aside = within(level, speed_cap);
  const double used = norm(aside) * body.inverse_mass_at(at, normalised(aside));
  return aside + within(rise, std::sqrt(std::max(0.0, speed_cap * speed_cap - used * used)));
}

Vec3 push_place(const BodyFacts& body, const Vec3& at, const Vec3& up) {
  return at - up * std::max(0.0, dot(at - body.centre, up));
}

double Pushed::withstood(double speed, double mass, double time) const {
  return force < 0 ? 0 : std::max(0.0, force - (speed - gave_way) * mass / time);
}

}  // namespace jugend
