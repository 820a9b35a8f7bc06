// What a shape is made of, as far as motion can feel it.
#pragma once

#include <array>
#include <cmath>
#include <cstdint>
#include <jugend/base/fields.hpp>
#include <jugend/base/number.hpp>
#include <jugend/base/vec.hpp>
#include <string_view>

namespace jugend {

/// A short name that is copied with what bears it: at most 23 characters, the rest is cut off.
class SurfaceName {
 public:
  constexpr SurfaceName() = default;
  constexpr SurfaceName(std::string_view name) {
    for (std::size_t i = 0; i < name.size() && i + 1 < text_.size(); ++i) text_[i] = name[i];
  }
  constexpr SurfaceName(const char* name) : SurfaceName(std::string_view(name)) {}
  constexpr operator std::string_view() const { return text_.data(); }
  static constexpr std::size_t most = 23;

 private:
  std::array<char, most + 1> text_{};
};

/// How the values of two surfaces that meet become one. Of two rules the later in this list counts.
enum class Mixing : std::uint8_t {
  mean,     ///< the geometric mean, sqrt(a b)
  most,     ///< the larger
  product,  ///< a b
  least     ///< the smaller: what is slippery or dead is so under everything
};

struct Surface {
  double friction = 0.8;     ///< Coulomb coefficient, >= 0
  double restitution = 0.0;  ///< 0: all speed into a contact is lost; 1: all comes back
  double grip = 1.0;         ///< share of a controller's push that the ground takes; 0.1: ice
  SurfaceName name{};        ///< for sounds, traces and messages
  Mixing friction_rule = Mixing::mean;
  Mixing restitution_rule = Mixing::most;
  double rolling_resistance =
      0;  ///< m: the torque against rolling, as a share of the force pressed with; the larger counts
  double spinning_resistance = 0;  ///< m: likewise against turning about the normal
  double speed = 1;                ///< top speed of who runs on it, as a share of their own; sticky: less than 1
  double jump = 1;                 ///< likewise the height of jumps from it
  Vec3 belt;                       ///< m/s, in the body's frame: what stands on it is carried along (conveyors)

  static constexpr auto fields() {
    return field_list(Field{"friction", &Surface::friction}, Field{"restitution", &Surface::restitution},
                      Field{"grip", &Surface::grip}, Field{"name", &Surface::name},
                      Field{"friction_rule", &Surface::friction_rule},
                      Field{"restitution_rule", &Surface::restitution_rule},
                      Field{"rolling_resistance", &Surface::rolling_resistance},
                      Field{"spinning_resistance", &Surface::spinning_resistance}, Field{"speed", &Surface::speed},
                      Field{"jump", &Surface::jump}, Field{"belt", &Surface::belt});
  }
};
static_assert(all_fields_listed<Surface>);

inline double combined(double a, double b, Mixing rule_a, Mixing rule_b) {
  switch (rule_a < rule_b ? rule_b : rule_a) {
    case Mixing::mean: return std::sqrt(a * b);
    case Mixing::most: return larger(a, b);
    case Mixing::product: return a * b;
    case Mixing::least: break;
  }
  return smaller(a, b);
}

}  // namespace jugend
