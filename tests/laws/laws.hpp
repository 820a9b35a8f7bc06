// Laws that whatever moves obeys, each a function over any scene: empty where it holds, else what broke.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "law_scene.hpp"

namespace jugend::laws {

struct Law {
  const char* name;
  bool with_things;  ///< scenes with steps and walls in the way
  std::function<std::string(const LawScene&, Random&)> broken;
};
const std::vector<Law>& all_laws();

/// Casts that a law cannot hold yet, and why: what the next storeys have to mend.
struct Exception {
  const char* law;
  Cast cast;
  const char* why;
  double share = 1;  ///< of scenes that may break it; below 1 all are asked
};
const std::vector<Exception>& known_exceptions();
/// The share of scenes that may break the law: 0 where there is no exception.
double may_break(const Law& law, Cast cast);
/// The same as law.broken; what is thrown in a tick counts as broken.
std::string broken_by(const Law& law, const LawScene& scene, Random& random);

}  // namespace jugend::laws
