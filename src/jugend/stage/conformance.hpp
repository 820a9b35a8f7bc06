// Is a host what controllers need? A test that a studio runs on its own physics, and that tells what is wrong in words.
#pragma once

#include <functional>
#include <jugend/motion/port/host.hpp>
#include <string>
#include <vector>

namespace jugend {

/// An empty world to try, and how bodies are made in it: solids that nothing moves where `mass` (kg) is 0, else of even
/// density, free to turn, at rest.
struct HostTrial {
  Host& host;
  std::function<BodyId(const Sphere& shape, const Pose& pose, double mass)> add_ball;
  std::function<BodyId(const Box& shape, const Pose& pose, double mass)> add_box;
  double dt = 1.0 / 60;  ///< s, of its steps
};

/// What is wrong, a sentence each with what was asked, found and wanted; nothing: none of it was found. The bodies that
/// it adds stay where they do not matter: 1 km and more from the origin.
std::vector<std::string> faults_of(const HostTrial& trial);

}  // namespace jugend
