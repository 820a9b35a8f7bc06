// What a tick asks by rays for its wheels, many at once, and what they find. Inner to the vehicle.
#pragma once

#include <array>
#include <jugend/motion/port/surroundings.hpp>
#include <jugend/motion/vehicle/detail/wheel_batch.hpp>
#include <jugend/motion/vehicle/vehicle.hpp>
#include <optional>
#include <span>

namespace jugend {

inline constexpr std::size_t most_rows = 3;   // of rays under a wheel
inline constexpr std::size_t most_ahead = 8;  // rays of a row, beside the one straight down

/// Rays that are cast together, and where each answer goes.
class RayBatch {
 public:
  void ask(const Ray& ray, std::optional<Hit>& answer) {
    rays_[count_] = ray, answers_[count_] = &answer;
    ++count_;
  }
  void send(const Surroundings& surroundings, const Filter& filter) {
    if (count_ == 0) return;
    surroundings.cast_all(std::span(rays_).first(count_), filter, std::span(hits_).first(count_));
    for (std::size_t i = 0; i < count_; ++i) *answers_[i] = hits_[i];
    count_ = 0;
  }

 private:
  static constexpr std::size_t most = most_wheels * most_rows * (most_ahead + 1);
  std::array<Ray, most> rays_;
  std::array<std::optional<Hit>, most> hits_;
  std::array<std::optional<Hit>*, most> answers_;
  std::size_t count_ = 0;
};

/// Rays under a wheel along its way.
struct RayRow {
  std::size_t wheel;
  Vec3 off;                                             // m from the wheel's middle
  std::size_t steps;                                    // rays down beside the first
  std::array<std::optional<Hit>, most_ahead + 1> down;  // [0]: straight down from the mount
  std::array<bool, 2> looked_low, looked_further;       // which of the next two were asked
  std::array<std::optional<Hit>, 2> low;                // low over the ground, before the wheel and behind it
  std::array<std::optional<Hit>, 2> further;            // down where the mount comes to; where the wheel reaches
  bool air;                                             // nothing is where the wheel may come to in this tick
  bool plane, level, falls, up_before, up_behind;       // what the ground is, as far as the first two rays tell
  GroundForm form;
};

/// Rays for what stands in a wheel's way: where it goes, ahead and back.
struct WallLook {
  Vec3 high;  // where they begin
  std::size_t count = 0;
  std::array<Vec3, 3> ways;
  std::array<std::optional<Hit>, 3> hits;
};

}  // namespace jugend
