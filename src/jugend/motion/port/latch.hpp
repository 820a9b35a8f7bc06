// Keeps key presses from being lost or doubled between input and tick.
#pragma once

#include <cstdint>
#include <jugend/base/fields.hpp>

namespace jugend {

/// What a tick hears of a button.
struct Button {
  std::uint32_t presses = 0;  ///< press edges since the tick before, taps shorter than a tick included
  bool held = false;          ///< is it down now?

  static constexpr auto fields() {
    return field_list(Field{"presses", &Button::presses}, Field{"held", &Button::held});
  }
};
static_assert(all_fields_listed<Button>);

/// Collects a button's edges as they come, at any rate, and hands them to the next tick once.
///   latch.set(key_is_down);          // at every input event or frame
///   intent.jump = latch.take();      // once, at the start of each tick
class PressLatch {
 public:
  void set(bool down) {
    if (down && !held_) ++presses_;
    held_ = down;
  }
  /// A press and release that was seen as one event.
  void tap() { ++presses_; }
  Button take() {
    const Button heard{presses_, held_};
    presses_ = 0;
    return heard;
  }

  static constexpr auto fields() {
    return field_list(Field{"presses", &PressLatch::presses_}, Field{"held", &PressLatch::held_});
  }

 private:
  std::uint32_t presses_ = 0;
  bool held_ = false;
};

}  // namespace jugend
