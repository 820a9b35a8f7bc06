// A test that is run at each tick rate.
#pragma once

#include <gtest/gtest.h>

#include <string>

#include "scene.hpp"

namespace jugend::testing {

class AtRate : public ::testing::TestWithParam<double> {
 protected:
  double hz = GetParam();
};
inline std::string rate_name(const ::testing::TestParamInfo<double>& tested) {
  return std::to_string(static_cast<int>(tested.param)) + "Hz";
}

}  // namespace jugend::testing
