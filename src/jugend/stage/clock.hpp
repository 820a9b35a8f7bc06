// Frame time in, whole ticks out.
#pragma once

namespace jugend {

/// Turns the uneven time between frames into whole ticks of one length.
///   const int ticks = clock.advance(frame_seconds);
///   for (int i = 0; i < ticks; ++i) stage.tick();
///   draw(stage, clock.fraction());
class FixedClock {
 public:
  /// `hz` ticks a second; at most `most_ticks` for one frame, so that a hitch is not paid back by a
  /// longer one. Throws InputError for hz outside 1 to 10,000 or most_ticks below 1.
  explicit FixedClock(double hz, int most_ticks = 8);

  /// How many ticks are due after a frame of `seconds` (negative and non-finite count as 0). Time beyond
  /// the most ticks is let go.
  int advance(double seconds);

  double tick() const { return tick_; }              ///< s
  double fraction() const { return left_ / tick_; }  ///< how far drawing is between the last two ticks, 0 to 1
  double dropped() const { return dropped_; }        ///< s let go so far

 private:
  double tick_;
  int most_ticks_;
  double left_ = 0;
  double dropped_ = 0;
};

}  // namespace jugend
