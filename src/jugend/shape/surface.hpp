// What a shape is made of, as far as motion can feel it.
#pragma once

#include <algorithm>
#include <array>
#include <string_view>

namespace jugend {

/// A short name that is copied with what bears it: at most 23 characters, the rest is cut off.
class SurfaceName {
 public:
  constexpr SurfaceName() = default;
  constexpr SurfaceName(std::string_view name) {
    std::copy_n(name.begin(), std::min(name.size(), text_.size() - 1), text_.begin());
  }
  constexpr SurfaceName(const char* name) : SurfaceName(std::string_view(name)) {}
  constexpr operator std::string_view() const { return text_.data(); }
  static constexpr std::size_t most = 23;

 private:
  std::array<char, most + 1> text_{};
};

struct Surface {
  double friction = 0.8;     ///< Coulomb coefficient, >= 0
  double restitution = 0.0;  ///< 0: all speed into a contact is lost; 1: all comes back
  double grip = 1.0;         ///< share of a controller's push that the ground takes; 0.1: ice
  SurfaceName name{};        ///< for sounds, traces and messages
};

}  // namespace jugend
