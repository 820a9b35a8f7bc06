// Numbers with names and units, as a table or as JSON.
#pragma once

#include <vector>

namespace jugend::app {

struct Line {
  const char* key;
  const char* label;
  const char* unit;
  double value;
};

void print_lines(const std::vector<Line>& lines, bool json);

}  // namespace jugend::app
