// What surroundings that do not know better answer.
#include <jugend/motion/port/surroundings.hpp>

namespace jugend {

void Surroundings::cast_all(std::span<const Ray> rays, const Filter& filter, std::span<std::optional<Hit>> hits) const {
  for (std::size_t i = 0; i < rays.size(); ++i) hits[i] = cast(rays[i], filter);
}

}  // namespace jugend
