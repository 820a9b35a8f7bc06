#include <jugend/base/error.hpp>
#include <jugend/stage/kinds/led_body.hpp>

namespace jugend {

ActorId add_led_body(Stage& stage, std::string name, const LedBodyTuning& tuning, BodyId body) {
  if (stage.world.kind(body) != BodyKind::dynamic)
    fail({{}, "actor.body", "a body that is not dynamic", "a dynamic body", {}});
  return stage.add(std::move(name), LedBody(tuning, body));
}

}  // namespace jugend
