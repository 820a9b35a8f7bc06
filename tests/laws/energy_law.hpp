// Energy held against random scenes of plain bodies: restitution 0 to 1, friction 0 to 2, starts inside one another,
// locked directions, mass ratios to 10,000, inertias of needles, gravity or none, 30 to 240 Hz.
#pragma once

#include <cstdint>
#include <string>

namespace jugend::laws {

/// One random scene: empty, or how much energy it made. What lay inside something as it began may be parted at the
/// world's push-out speed, and lifted as far as it lay in it.
std::string broken_by_energy(std::uint32_t seed);

}  // namespace jugend::laws
