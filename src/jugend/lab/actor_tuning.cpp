#include <jugend/lab/actor_tuning.hpp>

namespace jugend {

const std::vector<std::string>& actor_kinds() {
  static const std::vector<std::string> names{"walker", "forced", "roller", "led_body", "vehicle", "multirotor"};
  return names;
}

TunableList ActorTuning::list() const {
  switch (kind) {
    case ActorKind::walker: return walker_tunables();
    case ActorKind::forced: return forced_tunables();
    case ActorKind::led_body: return led_body_tunables();
    case ActorKind::vehicle: return vehicle_tunables();
    case ActorKind::multirotor: return multirotor_tunables();
    case ActorKind::roller: break;
  }
  return roller_tunables();
}

void check(const ActorTuning& tuning) {
  if (tuning.kind == ActorKind::roller) return check(tuning.roller);
  if (tuning.kind == ActorKind::led_body) return check(tuning.led_body);
  if (tuning.kind == ActorKind::vehicle) return check(tuning.vehicle);
  if (tuning.kind == ActorKind::multirotor) return check(tuning.multirotor);
  check(tuning.figure.walker);
  if (tuning.kind == ActorKind::forced) check(tuning.figure.legs, tuning.figure.walker);
}

}  // namespace jugend
