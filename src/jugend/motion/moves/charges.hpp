// How often a move may be made: charges, a cooldown, and what fills them up again.
#pragma once

#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/base/units.hpp>

namespace jugend {

struct ChargeTuning {
  int charges = 0;         ///< how many times between refills; 0: the move is off
  double cooldown = 0.35;  ///< s from one use to the next
  bool on_ground = true;   ///< ground, walls and ledges refill them; else only time does
  double recharge = 0;     ///< s in which time gives one back; 0: never
};

/// Why a move with charges cannot be made now.
enum class NoMove : std::uint8_t { none, switched_off, no_charge, cooling_down, busy, out_of_control, gated };
const char* name_of(NoMove reason);

struct ChargeState {
  std::int32_t used = 0;
  double since_use = long_ago;  ///< s
  double recharging = 0;        ///< s since the last one came back

  static constexpr auto fields() {
    return field_list(Field{"used", &ChargeState::used}, Field{"since_use", &ChargeState::since_use},
                      Field{"recharging", &ChargeState::recharging});
  }
};
static_assert(all_fields_listed<ChargeState>);

/// The rules of a ChargeState: the same check serves the player's own machine and a host that verifies
/// what a remote player asks for.
struct Charges {
  const ChargeTuning& tuning;
  ChargeState& state;

  NoMove ask() const {
    if (tuning.charges < 1) return NoMove::switched_off;
    if (state.since_use < tuning.cooldown - 1e-9) return NoMove::cooling_down;
    return state.used < tuning.charges ? NoMove::none : NoMove::no_charge;
  }
  void use(double now) { ++state.used, state.since_use = -now, state.recharging = -now; }
  void refill() {
    if (tuning.on_ground) state.used = 0;
  }
  void pass(double dt) {
    state.since_use += dt;
    if (tuning.recharge <= 0 || state.used == 0) return;
    for (state.recharging += dt; state.recharging >= tuning.recharge - 1e-9 && state.used > 0;) {
      state.recharging -= tuning.recharge;
      --state.used;
    }
  }
};

}  // namespace jugend
