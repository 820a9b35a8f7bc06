// RailMotions: bodies on rails, whose place is a function of time and nothing else.
#pragma once

#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/motion/guidance/path.hpp>
#include <optional>

namespace jugend {

enum class RailMotionRun : std::uint8_t { once, loop, there_and_back };

struct RailMotionTuning {
  double speed = 1.5;   ///< m/s between the eased parts; where `duration` is 0
  double duration = 0;  ///< s from the first stop to the last, dwells left out; 0: by speed
  RailMotionRun run = RailMotionRun::there_and_back;
  double ease = 0.3;  ///< share of each leg's time in which it gets up to speed, and likewise slows down; at most 1
  double dwell = 0;   ///< s at each stop
  bool every_point = false;  ///< every point of the path is a stop, not only its ends
  double phase = 0;          ///< s that it is ahead
  bool turn_along = false;   ///< heads where the path goes, level
  double turn_blend = 0.5;   ///< m before and after a corner in which it turns
  double turn_rate = 0;      ///< rad/s about the up axis (y) on top of that, while it is on its way

  static constexpr auto fields() {
    using T = RailMotionTuning;
    return field_list(Field{"speed", &T::speed}, Field{"duration", &T::duration}, Field{"run", &T::run},
                      Field{"ease", &T::ease}, Field{"dwell", &T::dwell}, Field{"every_point", &T::every_point},
                      Field{"phase", &T::phase}, Field{"turn_along", &T::turn_along},
                      Field{"turn_blend", &T::turn_blend}, Field{"turn_rate", &T::turn_rate});
  }
};
static_assert(all_fields_listed<RailMotionTuning>);
/// Throws InputError for numbers that are not finite or out of range.
void check(const RailMotionTuning& tuning);

/// A timetable along a path: the same place at the same time whatever ticks lie between.
///   const RailMotion ferry(Path(points), {.duration = 6, .dwell = 1});
///   ferry.pose_at(time, {points[0], {}});
class RailMotion {
 public:
  /// Throws InputError as check() does.
  RailMotion(Path path, const RailMotionTuning& tuning);

  double cycle() const { return cycle_; }  ///< s from one start to the next
  /// m along the path at a time (s); within 0 and its length.
  double way_at(double time) const;
  /// Where a body that starts at `start` is.
  Pose pose_at(double time, const Pose& start) const;
  const Path& path() const { return path_; }
  const RailMotionTuning& tuning() const { return tuning_; }

 private:
  struct Leg {
    double begin, duration;  // s; the dwell follows
    double from, to;         // m along the path
  };
  const Leg& leg_at(double& time) const;
  Path path_;
  RailMotionTuning tuning_;
  std::vector<Leg> legs_;
  double cycle_ = 0;
};

}  // namespace jugend
