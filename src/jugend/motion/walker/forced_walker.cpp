// A forced walker as it is made: what can be tuned about its legs, and the capsule that follows.
#include <fmt/format.h>

#include <jugend/base/error.hpp>
#include <jugend/motion/walker/forced_walker.hpp>
#include <type_traits>
#include <vector>

namespace jugend {

TunableList forced_tunables() {
  using F = ForcedTuning;
  static_assert(std::is_standard_layout_v<F>);
  static const std::vector<Tunable> list = [] {
    std::vector<Tunable> all(walker_tunables().begin(), walker_tunables().end());
    for (const Tunable& t : {
             JUGEND_TUNABLE(F, legs.clearance, "legs.clearance", "m", 0.01, 1000, "from the soles up to the body"),
             JUGEND_TUNABLE(F, legs.frequency, "legs.frequency", "Hz", 0.5, 60,
                            "with which legs come back to their length"),
             JUGEND_TUNABLE(F, legs.force_limit, "legs.force_limit", "1", 1.5, 1000,
                            "the most that they push, as a multiple of the weight"),
             JUGEND_TUNABLE(F, legs.run_force, "legs.run_force", "N", 0, 1e9, "the most with which it runs and brakes"),
             JUGEND_TUNABLE(F, legs.balance, "balance.frequency", "Hz", 0.1, 60, "how fast it comes back upright"),
             JUGEND_TUNABLE(F, legs.balance_torque, "balance.torque_limit", "Nm", 0, 1e9, "the most for that"),
         })
      all.push_back(t);
    return all;
  }();
  return list;
}

void check(const LegsTuning& legs, const WalkerTuning& walker) {
  const ForcedTuning whole{walker, legs};
  check_ranges(forced_tunables(), &whole);
  const double most = walker.body.height - 2 * walker.body.radius;
  if (legs.clearance > most)
    throw InputError({{},
                      "legs.clearance",
                      as_text(legs.clearance),
                      fmt::format("at most body.height - 2 x body.radius, {} m", as_text(most)),
                      {}});
}

Figure figure_of(const WalkerTuning& tuning, const LegsTuning& legs) {
  const double tall = tuning.body.height - legs.clearance;
  return {std::max(0.0, 0.5 * tall - tuning.body.radius), legs.clearance + 0.5 * tall};
}

ForcedWalker::ForcedWalker(const WalkerTuning& tuning, const LegsTuning& legs, BodyId body, const Vec3& facing)
    : WalkerBrain(tuning, {}, facing), legs_(legs), body_(body) {
  check(legs, tuning);
}

double ForcedWalker::middle() const {
  return figure_of(tuning_, legs_).middle - (state_.crouched ? 0.9 * legs_.clearance : 0);
}

double ForcedWalker::height() const { return tuning_.body.height - (state_.crouched ? 0.9 * legs_.clearance : 0); }

}  // namespace jugend
