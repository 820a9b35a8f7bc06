#include <algorithm>
#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/base/units.hpp>
#include <jugend/motion/moves/sizing.hpp>
#include <string>
#include <vector>

namespace jugend {
namespace {

void need_positive(double value, const char* key) {
  if (std::isfinite(value) && value > 0) return;
  fail({{}, key, filled("{}", value), "more than 0", {}});
}

}  // namespace

JumpSize size_jump(double height, double time_to_apex) {
  need_positive(height, "height");
  need_positive(time_to_apex, "time");
  return {2 * height / (time_to_apex * time_to_apex), 2 * height / time_to_apex};
}

Rise rise_of(double speed, double gravity) {
  need_positive(speed, "speed");
  need_positive(gravity, "gravity");
  return {speed * speed / (2 * gravity), speed / gravity};
}

double fall_after(const JumpTuning& jump, double time) {
  const FallLaw law = jump.fall_law();
  const double limited = law.speed_limit / law.falling;  // s until the limit
  const double free = std::min(time, limited);
  return 0.5 * law.falling * free * free + law.speed_limit * std::max(0.0, time - limited);
}

double fall_time(const JumpTuning& jump, double drop) {
  const FallLaw law = jump.fall_law();
  const double until_limit = law.speed_limit * law.speed_limit / (2 * law.falling);
  if (drop <= until_limit) return std::sqrt(2 * drop / law.falling);
  return law.speed_limit / law.falling + (drop - until_limit) / law.speed_limit;
}

std::optional<double> flight_time(const JumpTuning& jump, double rise) {
  if (rise > jump.height) return std::nullopt;
  return jump.time_to_apex + fall_time(jump, jump.height - rise);
}

std::optional<double> gap(const JumpTuning& jump, double speed, double rise) {
  const auto time = flight_time(jump, rise);
  if (!time) return std::nullopt;
  return speed * *time;
}

double ledge(const JumpTuning& jump, double speed, double distance) {
  const double time = distance / speed;
  const double from_apex = time - jump.time_to_apex;
  if (from_apex < 0) return jump.height - 0.5 * jump.gravity() * from_apex * from_apex;
  return jump.height - fall_after(jump, from_apex);
}

Rise rise_with_air_jumps(const JumpTuning& jump) {
  Rise sum{jump.height, jump.time_to_apex};
  for (int n = 0; n < static_cast<int>(jump.air_jumps); ++n) {
    sum.height += jump.air_height_of(n);
    sum.time += std::sqrt(2 * jump.air_height_of(n) / jump.gravity());
  }
  return sum;
}

double dash_speed(double distance, double time) {
  need_positive(distance, "distance");
  need_positive(time, "time");
  return distance / time;
}

Throw throw_of(double distance, double time, double mass) {
  need_positive(distance, "distance");
  need_positive(time, "time");
  need_positive(mass, "mass");
  const double speed = 2 * distance / time;
  return {speed, speed / time, speed * mass};
}

double stopping_distance(const RunTuning& run, double speed) {
  return speed * speed * run.time_to_stop / (2 * run.top_speed);
}

double run_up(const RunTuning& run) { return 0.5 * run.top_speed * run.time_to_top_speed; }

std::span<const SkyBody> sky_bodies() {
  static constexpr SkyBody bodies[] = {
      {"earth", standard_gravity}, {"moon", 1.62}, {"mars", 3.71}, {"venus", 8.87}, {"jupiter", 24.79}};
  return bodies;
}

double gravity_on(std::string_view body, double game_gravity) {
  std::vector<std::string> names;
  std::string allowed;
  for (const SkyBody& b : sky_bodies()) {
    if (b.name == body) return game_gravity * (b.gravity / standard_gravity);
    names.emplace_back(b.name);
    allowed += (allowed.empty() ? "" : ", ") + names.back();
  }
  fail({{}, "body", filled("'{}'", body), std::move(allowed), nearest_name(std::string(body), names)});
}

}  // namespace jugend
