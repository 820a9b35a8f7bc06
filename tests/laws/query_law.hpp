// Rays, sweeps and near queries held against brute force: random shapes of every kind at scales of 1e-3 to 1e5 m, a
// third of the questions parallel to axes, along edges, through corners, grazing or from within.
#pragma once

#include <cstdint>
#include <string>

namespace jugend::laws {

/// One random shape, or a world of some, and a few dozen questions about it: empty, or what was missed or wrong.
/// `asked` counts them.
std::string broken_by_queries(std::uint32_t seed, std::uint64_t& asked);

}  // namespace jugend::laws
