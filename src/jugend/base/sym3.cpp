#include <cmath>
#include <jugend/base/sym3.hpp>

namespace jugend {

PrincipalAxes principal_axes(const Sym3& m) {
  Quat axes;
  Sym3 d = m;
  const double small = 1e-12 * (m.xx + m.yy + m.zz);
  for (int turns = 0; turns < 50; ++turns) {
    const double x = std::abs(d.yz), y = std::abs(d.xz), z = std::abs(d.xy);
    if (!(x > small || y > small || z > small)) break;
    // About the axis between the two that are mixed most, from the first of them towards the second.
    const int about = x >= y && x >= z ? 0 : y >= z ? 1 : 2;
    const double mixed = about == 0 ? d.yz : about == 1 ? d.xz : d.xy;
    const double apart = about == 0 ? d.yy - d.zz : about == 1 ? d.zz - d.xx : d.xx - d.yy;
    const double cot = apart / (2 * mixed);  // of twice the angle; the lesser of both angles is taken
    const double tan = (cot < 0 ? -1 : 1) / (std::abs(cot) + std::sqrt(cot * cot + 1));
    const double cos_half = std::sqrt((1 + 1 / std::sqrt(1 + tan * tan)) / 2);
    const double sin_half = tan / std::sqrt(1 + tan * tan) / (2 * cos_half);
    axes = normalised(axes *
                      Quat{cos_half, about == 0 ? sin_half : 0, about == 1 ? sin_half : 0, about == 2 ? sin_half : 0});
    d = turned(conjugate(axes), m);  // from the start, so that rounding does not add up
  }
  return {{d.xx, d.yy, d.zz}, axes};
}

}  // namespace jugend
