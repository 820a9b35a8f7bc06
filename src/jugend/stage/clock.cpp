#include <cmath>
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/stage/clock.hpp>

namespace jugend {

FixedClock::FixedClock(double hz, int most_ticks) : tick_(1 / hz), most_ticks_(most_ticks) {
  if (!(hz >= 1 && hz <= 10000)) fail({{}, "hz", filled("{}", hz), "1 to 10000 Hz", {}});
  if (most_ticks < 1) fail({{}, "most_ticks", filled("{}", most_ticks), "1 or more", {}});
}

int FixedClock::advance(double seconds) {
  if (!std::isfinite(seconds) || seconds < 0) seconds = 0;
  left_ += seconds;
  // A frame that is one rounding short of a tick is that tick.
  const double due = std::floor(left_ / tick_ + 1e-9);
  const int ticks = due > most_ticks_ ? most_ticks_ : static_cast<int>(due);
  left_ = std::fmax(0.0, left_ - due * tick_);
  dropped_ += (due - ticks) * tick_;
  return ticks;
}

}  // namespace jugend
