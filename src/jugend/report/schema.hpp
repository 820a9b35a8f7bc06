// Tunables as lists for people, JSON, and JSON Schema.
#pragma once

#include <jugend/base/tunable.hpp>
#include <string>

namespace jugend {

/// A line a tunable: key, default, range, unit, help.
std::string tunable_table(TunableList list, const void* defaults);
std::string tunable_json(TunableList list, const void* defaults);
/// A JSON Schema (draft 2020-12) of a tuning file with these tunables; `kind` is its kind key.
std::string tunable_schema(TunableList list, const void* defaults, const std::string& kind);

}  // namespace jugend
