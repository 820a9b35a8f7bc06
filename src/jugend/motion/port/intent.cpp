#include <algorithm>
#include <cmath>
#include <jugend/base/elementary.hpp>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/port/intent.hpp>

namespace jugend {

void check(const StickTuning& tuning) {
  const auto refuse = [](const char* key, double found, const char* allowed) {
    fail({{}, key, filled("{}", found), allowed, {}});
  };
  if (!(tuning.dead_zone >= 0 && tuning.dead_zone < 1)) refuse("stick.dead_zone", tuning.dead_zone, "0 to less than 1");
  if (!(tuning.full_zone > tuning.dead_zone && tuning.full_zone <= 1))
    refuse("stick.full_zone", tuning.full_zone, "more than stick.dead_zone, at most 1");
  if (!(tuning.curve >= 0.1 && tuning.curve <= 10)) refuse("stick.curve", tuning.curve, "0.1 to 10");
}

Stick shaped(const Stick& raw, const StickTuning& tuning) {
  const double size = same_bits::hypot(raw.x, raw.y);
  if (!std::isfinite(size) || size <= tuning.dead_zone || size == 0) return {};
  const double share = std::clamp((size - tuning.dead_zone) / (tuning.full_zone - tuning.dead_zone), 0.0, 1.0);
  const double scale = same_bits::pow(share, tuning.curve) / size;
  return {raw.x * scale, raw.y * scale};
}

}  // namespace jugend
