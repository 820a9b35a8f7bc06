#include <jugend/stage/kinds/tracked_vehicle.hpp>

namespace jugend {

ActorId add_tracked_vehicle(Stage& stage, std::string name, const TrackedTuning& tuning, BodyId body) {
  TrackedVehicle vehicle(tuning, body, stage.world);
  stage.world.set_sleeping(body, false);
  return stage.add(std::move(name), std::move(vehicle));
}

}  // namespace jugend
