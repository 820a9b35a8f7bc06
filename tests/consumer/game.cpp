// Makes a walker fall on a floor with the game library alone: exits with 0 when it stands.
#include <jugend/stage/kinds.hpp>

int main() {
  jugend::Stage stage;
  stage.world.add({.shape = jugend::Box{{5, 1, 5}}, .pose = {{0, -1, 0}, {}}});
  const auto courier = stage.add("courier", jugend::Walker({}, {0, 1, 0}));
  for (int i = 0; i < 120; ++i) stage.tick(1.0 / 60);
  return stage.actor(courier).as<jugend::Walker>().state().on_ground ? 0 : 1;
}
