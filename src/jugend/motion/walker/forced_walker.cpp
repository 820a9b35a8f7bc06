// A forced walker as it is made: what can be tuned about its legs, and the capsule that follows.
#include <jugend/base/error.hpp>
#include <jugend/base/text.hpp>
#include <jugend/motion/walker/forced_walker.hpp>
#include <type_traits>
#include <vector>

namespace jugend {

const Tunables& forced_tunables() {
  using F = ForcedTuning;
  static_assert(std::is_standard_layout_v<F>);
  static const Tunables list = [] {
    std::vector<Tunable> all(walker_tunables().begin(), walker_tunables().end());
    for (const Tunable& t : {
             number<F>(
                 "legs.clearance", "m", 0.01, 1000, "from the soles up to the body",
                 [](auto& t) -> auto& { return t.legs.clearance; }),
             number<F>(
                 "legs.frequency", "Hz", 0.5, 60, "with which legs come back to their length",
                 [](auto& t) -> auto& { return t.legs.frequency; }),
             number<F>(
                 "legs.force_limit", "1", 1.5, 1000, "the most that they push, as a multiple of the weight",
                 [](auto& t) -> auto& { return t.legs.force_limit; }),
             number<F>(
                 "legs.run_force", "N", 0, 1e9, "the most with which it runs and brakes",
                 [](auto& t) -> auto& { return t.legs.run_force; }),
             number<F>(
                 "balance.frequency", "Hz", 0.1, 60, "how fast it comes back upright",
                 [](auto& t) -> auto& { return t.legs.balance; }),
             number<F>(
                 "balance.torque_limit", "Nm", 0, 1e9, "the most for that",
                 [](auto& t) -> auto& { return t.legs.balance_torque; }),
         })
      all.push_back(t);
    return Tunables(std::move(all), {}, {}, {});
  }();
  return list;
}

void check(const LegsTuning& legs, const WalkerTuning& walker) {
  const ForcedTuning whole{walker, legs};
  check_ranges(forced_tunables(), &whole);
  const double most = walker.body.height - 2 * walker.body.radius;
  if (legs.clearance > most)
    fail({{},
          "legs.clearance",
          as_text(legs.clearance),
          filled("at most body.height - 2 x body.radius, {} m", as_text(most)),
          {}});
}

Figure figure_of(const WalkerTuning& tuning, const LegsTuning& legs) {
  const double tall = tuning.body.height - legs.clearance;
  return {std::max(0.0, 0.5 * tall - tuning.body.radius), legs.clearance + 0.5 * tall};
}

ForcedWalker::ForcedWalker(const WalkerTuning& tuning, const LegsTuning& legs, BodyId body, const Vec3& facing)
    : WalkerBrain(tuning, {}, facing), legs_(legs) {
  body_ = body;
  check(legs, tuning);
}

double ForcedWalker::middle() const {
  return figure_of(tuning_, legs_).middle - (state_.crouched ? 0.9 * legs_.clearance : 0);
}

double ForcedWalker::height() const { return tuning_.body.height - (state_.crouched ? 0.9 * legs_.clearance : 0); }

}  // namespace jugend
